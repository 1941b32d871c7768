using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.Demo;
using Eidolon.Screenshots;
using Eidolon.StandIns.Characters;
using Eidolon.Studio;
using Eidolon.Studio.Services;

// Usage: characters FOLDER writes the demo's characters as GLB, one painted over, and one bound to a mesh twice.
if (args is ["characters", var target])
{
    foreach (var name in Eidolon.StandIns.Characters.HarbourCharacters.Names)
    {
        File.WriteAllBytes(Path.Combine(target, name + ".glb"), HarbourCharacters.Build(name));
    }

    var whole = GltfCharacter.Open(HarbourCharacters.Build("Stevedore"), "Stevedore.glb");
    var stroke = new WeightStep(WeightBrush.Smooth, whole.Painted.Surface.Bones[5], [100, 900], .2f, 1, null, []);
    File.WriteAllBytes(Path.Combine(target, "painted.glb"), whole.Write(whole.Prepare(CharacterDraft.Empty.With(stroke))));
    var bare = GltfSkinWriter.WriteBare(HarbourCharacters.Figure("Lamplighter").Figure, "bare", System.Numerics.Matrix4x4.Identity);
    var bound = GltfBareModel.Open(bare, "bare.glb").Bind().Glb;
    var knee = GltfRebinder.Places(bound, "bound.glb")![BodyRole.ShinL] - new System.Numerics.Vector3(0, .03f, 0);
    File.WriteAllBytes(
        Path.Combine(target, "bound-anew.glb"),
        GltfRebinder.Bind(bound, "bound.glb", new Dictionary<BodyRole, System.Numerics.Vector3> { [BodyRole.ShinL] = knee })
    );

    return;
}

// Usage: look ADDRESS FILE PATH [SECONDS] [SCRIPT] [WIDTH HEIGHT]: one picture of a studio that runs.
if (args is ["look", var address, var file, var path, .. var more])
{
    using var eye = new Browser(address);
    if (more.Length > 3)
    {
        eye.Size(
            int.Parse(more[2], System.Globalization.CultureInfo.InvariantCulture),
            int.Parse(more[3], System.Globalization.CultureInfo.InvariantCulture)
        );
    }

    eye.Open(path);
    if (more.Length > 1)
    {
        Console.WriteLine(eye.Js(more[1]));
    }

    Thread.Sleep(TimeSpan.FromSeconds(more.Length > 0 ? double.Parse(more[0], System.Globalization.CultureInfo.InvariantCulture) : 1));
    eye.Save(file);
    Console.WriteLine(string.Join('\n', eye.Problems()));
    return;
}

// Usage: FOLDER [DATA] [name…]: writes one 1280x800 PNG of the Board and of each Step, from the demo.
var folder = args.Length > 0 ? args[0] : "docs/screenshots";
var data = args.Length > 1 && args[1].Length > 0 ? args[1] : Path.Combine(Path.GetTempPath(), $"eidolon-shots-{Guid.NewGuid():N}");
Directory.CreateDirectory(folder);
var module = new DemoModule();
var app = StudioHost.Build(new StudioOptions(data), module);
await StudioHost.Prepare(app.Services, m => Console.WriteLine("  " + m), module);
await app.StartAsync();
var takes = await ShotPlan.Prepare(app.Services);
using (var browser = new Browser(app.Urls.First()))
{
    foreach (var shot in ShotPlan.All(takes).Where(s => args.Length < 3 || args.Skip(2).Contains(s.Name)))
    {
        browser.Size(shot.Width, shot.Height);
        browser.Open(shot.Path);
        shot.Act?.Invoke(browser);
        Thread.Sleep(500);
        browser.Save(Path.Combine(folder, shot.Name + ".png"));
        var problems = browser.Problems();
        Console.WriteLine($"  {shot.Name}{(problems.Count > 0 ? ": " + string.Join(" | ", problems.Take(3)) : string.Empty)}");
    }
}

await app.StopAsync();
