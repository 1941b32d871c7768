using Eidolon.Core.Optical;
using Eidolon.Storage;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>Gathers what a page shows of the stage, and judges what is to be done before a recording.</summary>
public sealed class StageStatus(
    Recorder recorder,
    DeviceRack rack,
    LiveStage stage,
    RingPreparation preparation,
    SuitCheck suit,
    SuitFeed wearer,
    WitnessCheck witness,
    IDbContextFactory<EidolonDb> factory,
    StageSettings settings,
    DiskRoom room
)
{
    private const string RingStream = "ring";
    private (CameraRing? Ring, double Share) _covered;
    private (double At, double Pixels, DateTime? Made, DateTime? Ground) _calibration;

    public RecorderStatus Now()
    {
        var r = recorder.Now();
        var (half, most, _) = stage.Load.Spread();
        var devices = rack.Status().ToList();
        var sends = devices.Exists(d => d.Stream == RingStream && d.Connected);
        var view = sends ? stage.View : stage.View.Unseen();
        return new RecorderStatus(
            r.State,
            r.Seconds,
            r.Frames,
            r.Kept,
            r.TakeId,
            r.TakeName,
            Math.Round(r.MegabytesPerSecond, 2),
            Math.Round(half, 1),
            Math.Round(most, 1),
            stage.Load.Behind,
            view,
            devices,
            preparation.Status(),
            Checks(view, sends),
            r.Said
        );
    }

    private List<Check> Checks(LiveView view, bool sends)
    {
        Calibration();
        var ring = stage.Ring;
        var knocked = view.Cameras.Where(c => c.Knocked).Select(c => c.Name).ToArray();
        var checks = new List<Check>
        {
            ring is null ? new("ring", "Cameras calibrated", "again", "no", "Wave the wand: without it there is no 3D.")
            : knocked.Length > 0
                ? new(
                    "ring",
                    "Cameras calibrated",
                    "again",
                    $"camera {string.Join(", ", knocked)}",
                    $"Camera {string.Join(", ", knocked)} was knocked: its picture is {view.Cameras.Where(c => c.Knocked).Max(c => c.Shift):0.0} px beside. "
                        + "It is left out; wave the wand again."
                )
            : new("ring", "Cameras calibrated", "good", $"{_calibration.Pixels:0.00} px", string.Empty),
            _calibration.Ground is { } ground
                ? new(
                    "ground",
                    "Floor and axes set",
                    "good",
                    ground.ToLocalTime().ToString("HH:mm", System.Globalization.CultureInfo.InvariantCulture),
                    string.Empty
                )
                : new("ground", "Floor and axes set", "again", "no", "Lay the ground frame on the floor and set it."),
        };
        if (ring is not null)
        {
            var share = Covered(ring);
            checks.Add(
                new(
                    "volume",
                    "Volume covered",
                    share > 0.8 ? "good" : "again",
                    $"{share * 100:0} %",
                    share > 0.8
                        ? string.Empty
                        : "Less than four fifths of the floor is seen by three cameras at hip height; turn cameras towards the gaps."
                )
            );
        }

        checks.AddRange(
            view.Bodies.Select(b => new Check(
                "body-" + b.Name,
                $"{b.Name} found",
                b.Found ? "good" : "wait",
                b.BySuit ? "by the suit"
                    : b.Found ? $"{b.Seen}/{b.Of}"
                    : "…",
                b.Found ? string.Empty
                    : sends ? $"Looking for {b.Name} among the markers."
                    : "The camera ring sends nothing."
            ))
        );
        checks.AddRange(
            view.Props.Where(p => p.Seen > 0 || p.Trusted)
                .Select(p => new Check(
                    "prop-" + p.Name,
                    $"{p.Name} seen",
                    p.Trusted ? "good" : "again",
                    $"{p.Seen} of {p.Of}",
                    p.Trusted ? string.Empty : $"{p.Name} cannot be trusted: only {p.Seen} of its {p.Of} markers are seen."
                ))
        );
        checks.AddRange(suit.Checks());
        checks.AddRange(wearer.Check() is { } worn ? [worn] : []);
        checks.AddRange(witness.Checks());
        // All devices together write some three megabytes a second.
        checks.Add(new("room", "Room to record", room.Low ? "again" : "good", $"{room.Free / 3e6 / 3600:0} h", room.Words));
        return checks;
    }

    /// <summary>Share of the floor of the volume that at least three cameras see at hip height.</summary>
    private double Covered(CameraRing ring)
    {
        if (!ReferenceEquals(_covered.Ring, ring))
        {
            var cells = FloorCoverage.Of(ring, settings.Ring.VolumeX, settings.Ring.VolumeZ);
            _covered = (ring, cells.Count(c => c.Cameras >= 3) / (double)cells.Count);
        }

        return _covered.Share;
    }

    private void Calibration()
    {
        if (StudioClock.Now - _calibration.At < 1)
        {
            return;
        }

        using var db = factory.CreateDbContext();
        var row = db
            .Calibrations.AsNoTracking()
            .OrderByDescending(c => c.Id)
            .Select(c => new
            {
                c.ResidualPixels,
                c.MadeUtc,
                c.GroundUtc,
            })
            .FirstOrDefault();
        _calibration = (
            StudioClock.Now,
            row?.ResidualPixels ?? 0,
            row?.MadeUtc,
            row?.GroundUtc is { } g ? DateTime.SpecifyKind(g, DateTimeKind.Utc) : null
        );
    }
}
