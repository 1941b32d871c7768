using System.CommandLine;
using Eidolon.Cli.Verbs;

namespace Eidolon.Cli;

/// <summary>All verbs.</summary>
internal static class Commands
{
    public static RootCommand Root() =>
        new("Eidolon: motion capture from recording to a finished file. Every verb writes its report with --json PATH (- for stdout).")
        {
            InspectVerb.Create(),
            SampleVerb.Create(),
            ConvertVerb.Create(),
            LabelVerb.Create(),
            CleanVerb.Create(),
            SolveVerb.Create(),
            SolveSuitVerb.Create(),
            SolveVideoVerb.Create(),
            RetargetVerb.Create(),
            RigVerb.Create(),
            MomentsVerb.Create(),
            CheckVerb.Create(),
            CompareVerb.Create(),
            AssembleVerb.Create(),
            LoopVerb.Create(),
            PolishVerb.Create(),
            SimulateVerb.Create(),
            StandInVerb.Create(),
            CalibrateVerb.Create(),
            ReconstructVerb.Create(),
        };
}
