using System.CommandLine;
using Eidolon.Cli;
using Eidolon.Cli.Verbs;

var root = new RootCommand("Eidolon: motion capture from recording to a finished file. Every verb writes its report with --json PATH (- for stdout).")
{
    InspectVerb.Create(), SampleVerb.Create(), ConvertVerb.Create(), LabelVerb.Create(), CleanVerb.Create(), SolveVerb.Create(),
    RetargetVerb.Create(), CheckVerb.Create(), AssembleVerb.Create(), SimulateVerb.Create(),
};
return Runner.Run(root, args);
