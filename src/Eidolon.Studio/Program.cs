using Eidolon.Studio;

return await StudioHost.Run(args);
