using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Live;

/// <summary>What the page says beside the Stage, a few times a second.</summary>
/// <param name="Bodies">Each performer: found, markers seen and hidden by name.</param>
/// <param name="Props">Each prop: markers seen of how many, trust 0…1.</param>
/// <param name="Cameras">Each camera: residual in pixels, share of points it contributes, shift when knocked.</param>
public sealed record LiveView(
    int Points,
    IReadOnlyList<LiveView.BodyLine> Bodies,
    IReadOnlyList<LiveView.PropLine> Props,
    IReadOnlyList<LiveView.CameraLine> Cameras,
    double NoisePixels
)
{
    public static LiveView Empty { get; } = new(0, [], [], [], 0);

    /// <summary>What driving all characters takes, milliseconds a frame; null when none is driven.</summary>
    public double? CharacterMilliseconds { get; init; }

    /// <summary>The same while no camera sends: nothing is seen, and nobody but who wears the suit, whatever was seen last.</summary>
    public LiveView Unseen() =>
        this with
        {
            Points = 0,
            NoisePixels = 0,
            Bodies = [.. Bodies.Select(b => b with { Found = b.BySuit, Seen = 0, Hidden = [], HiddenParts = [] })],
            Props = [.. Props.Select(p => p with { Seen = 0, Trust = 0, Trusted = false })],
        };

    public sealed record BodyLine(
        string Name,
        bool Found,
        int Seen,
        int Of,
        IReadOnlyList<string> Hidden,
        IReadOnlyList<string> HiddenParts,
        bool BySuit = false
    );

    public sealed record PropLine(string Name, int Seen, int Of, float Trust, bool Trusted);

    public sealed record CameraLine(string Name, double Residual, double Used, bool Knocked, double Shift);

    internal static LiveView Of(
        IEnumerable<LiveFigure> bodies,
        IEnumerable<RigidBodyTracker> props,
        IReadOnlyCollection<LiveCharacter> characters,
        int points,
        RingHealth health,
        CameraRing ring
    )
    {
        var cameras = ring
            .Cameras.Select(
                (c, i) =>
                    new CameraLine(
                        c.Name,
                        Math.Round(health.Residual(i), 3),
                        Math.Round(health.Used(i), 3),
                        health.Knocked(i),
                        Math.Round(health.Shift(i), 2)
                    )
            )
            .ToList();
        var known = cameras.Where(c => c.Residual > 0).ToList();
        return new LiveView(
            points,
            [.. bodies.Select(Line)],
            [
                .. props.Select(p => new PropLine(
                    p.Body.Name,
                    p.Pose.Seen,
                    p.Body.Markers.Count,
                    MathF.Round(p.Pose.Trust, 2),
                    p.Pose.Trusted
                )),
            ],
            cameras,
            known.Count == 0 ? 0 : Math.Round(Math.Sqrt(known.Average(c => c.Residual * c.Residual)), 3)
        )
        {
            CharacterMilliseconds = Took(characters),
        };
    }

    /// <summary>The same with what the suit alone moved since.</summary>
    internal LiveView With(IEnumerable<LiveFigure> bodies, IReadOnlyCollection<LiveCharacter> characters) =>
        this with
        {
            Bodies = [.. bodies.Select(Line)],
            CharacterMilliseconds = Took(characters),
        };

    private static double? Took(IReadOnlyCollection<LiveCharacter> characters) =>
        characters.Count == 0 ? null : Math.Round(characters.Sum(c => c.Milliseconds), 3);

    private static BodyLine Line(LiveFigure figure)
    {
        var body = figure.Ring;
        var seen = body.Found ? body.Held.Values.ToHashSet() : [];
        var hidden = Enumerable.Range(0, body.Markers.Count).Where(m => !seen.Contains(m)).ToArray();
        string[] parts = body.Found
            ? [.. hidden.Select(m => BodyRoles.Part(body.Skeleton[body.Markers[m].Joint].Role!.Value)).Distinct()]
            : [];
        return new BodyLine(
            body.Name,
            figure.Found,
            seen.Count,
            body.Markers.Count,
            [.. hidden.Select(m => body.Markers[m].Name)],
            parts,
            figure.BySuit
        );
    }
}
