using Eidolon.Demo;
using Eidolon.Studio;

return await StudioHost.Run(args, new DemoModule());
