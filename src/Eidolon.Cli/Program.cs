using Eidolon.Cli;

return Runner.Run(Commands.Root(), args);
