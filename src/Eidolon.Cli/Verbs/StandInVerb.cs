using System.CommandLine;
using System.Net;
using System.Text.Json.Nodes;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Cli.Verbs;

/// <summary>Runs one stand-in device alone, as a real one would stand beside the studio.</summary>
internal static class StandInVerb
{
    public static Command Create()
    {
        var kind = new Argument<string>("DEVICE") { Description = "ring, suit, witness or face." };
        var scenario = new Option<string>("--scenario")
        {
            DefaultValueFactory = _ => "lamp-walk",
            Description = $"{string.Join(", ", SceneCatalog.Names)}; the ring also {RingStandIn.WandScene}, {RingStandIn.GroundScene}.",
        };
        var port = new Option<int>("--port") { Required = true, Description = "UDP port on 127.0.0.1 to send to." };
        var performer = new Option<string?>("--performer") { Description = "Ines or Tobi." };
        var camera = new Option<int>("--camera") { DefaultValueFactory = _ => 1, Description = "Which witness camera, 1 to 3." };
        var loss = new Option<double>("--loss") { Description = "Percent of packets that are lost." };
        var jitter = new Option<double>("--jitter") { Description = "Longest random delay, milliseconds." };
        var faults = new Option<string[]>("--fault") { Description = $"NAME@SECONDS; {string.Join(", ", StandInFault.Names)}." };
        var seconds = new Option<double?>("--seconds") { Description = "Stop after so long; until Ctrl+C otherwise." };
        var json = Options.Json();
        var command = new Command("stand-in", "Runs a stand-in device alone.")
        {
            kind,
            scenario,
            port,
            performer,
            camera,
            loss,
            jitter,
            faults,
            seconds,
            json,
        };
        command.SetAction(
            (p, cancel) =>
                Run(
                    p.GetRequiredValue(kind),
                    p.GetValue(scenario)!,
                    p.GetRequiredValue(port),
                    p.GetValue(performer),
                    p.GetValue(camera),
                    p.GetValue(loss),
                    p.GetValue(jitter),
                    p.GetValue(faults) ?? [],
                    p.GetValue(seconds),
                    p.GetValue(json),
                    cancel
                )
        );
        return command;
    }

    private static async Task<int> Run(
        string kind,
        string scenario,
        int port,
        string? who,
        int camera,
        double loss,
        double jitter,
        string[] faults,
        double? seconds,
        string? json,
        CancellationToken cancel
    )
    {
        if (port is < 1 or > 65535 || loss is < 0 or > 100 || jitter is < 0 or > 10_000 || seconds is <= 0 || camera is < 1 or > 3)
        {
            throw new UsageException("--port 1 to 65535, --loss 0 to 100, --jitter 0 to 10000, --camera 1 to 3, --seconds above 0");
        }

        StandInFault[] parsed;
        try
        {
            parsed = [.. faults.Select(StandInFault.Parse)];
        }
        catch (ArgumentException e)
        {
            throw new UsageException(e.Message);
        }

        var device = Device(kind, scenario, who, camera);
        var sender = new StandInSender(device, new IPEndPoint(IPAddress.Loopback, port), new StandInSender.Settings(loss, jitter, parsed));
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        if (seconds is { } s)
        {
            stop.CancelAfter(TimeSpan.FromSeconds(s));
        }

        if (json != "-")
        {
            Console.WriteLine($"stand-in {kind}: {scenario} at {device.Rate}/s to 127.0.0.1:{port}; Ctrl+C ends it");
        }

        try
        {
            await sender.Run(stop.Token);
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            // The person, or the time asked for, ended it.
        }

        Report.Write(
            json,
            new JsonObject
            {
                ["device"] = kind,
                ["scenario"] = scenario,
                ["sent"] = sender.Sent,
                ["withheld"] = sender.Withheld,
                ["warnings"] = new JsonArray(),
            },
            $"{sender.Sent} packets sent, {sender.Withheld} withheld"
        );
        return ExitCodes.Done;
    }

    private static StandInDevice Device(string kind, string scenario, string? who, int camera)
    {
        var wand = scenario is RingStandIn.WandScene or RingStandIn.GroundScene;
        if (!(wand && kind == "ring") && !SceneCatalog.Names.Contains(scenario, StringComparer.OrdinalIgnoreCase))
        {
            throw new UsageException($"there is no scenario '{scenario}' (there are {string.Join(", ", SceneCatalog.Names)})");
        }

        var person = HarbourCast.Find(who ?? (wand ? "Ines" : SceneCatalog.DefaultPerformer(scenario)));
        switch (kind)
        {
            case "ring":
                var ring = new RingStandIn();
                ring.Perform(scenario, person, 1);
                return ring;
            case "suit":
                var suit = new SuitStandIn();
                suit.Perform(scenario, person, 1);
                return suit;
            case "witness":
                var witness = new WitnessStandIn(camera - 1);
                witness.Perform(scenario, person, 1);
                return witness;
            case "face":
                return new FaceStandIn();
            default:
                throw new UsageException($"there is no stand-in '{kind}' (ring, suit, witness, face)");
        }
    }
}
