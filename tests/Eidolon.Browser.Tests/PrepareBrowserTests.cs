using System.Globalization;
using System.Numerics;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;

namespace Eidolon.Browser.Tests;

/// <summary>How a skin follows its joints, seen, painted and bound anew with the pointer.</summary>
public sealed class PrepareBrowserTests(DemoStudio studio) : TakePage(studio), IClassFixture<DemoStudio>
{
    private SubjectLibrary Library => Server.Services.GetRequiredService<SubjectLibrary>();

    private async Task<int> New(string name, byte[] glb)
    {
        await using var db = Db();
        var id = (await Library.Add(db.Productions.OrderBy(p => p.Id).First().Id, SubjectKind.Character, name)).Id;
        await Library.Dress(id, glb, name + ".glb");
        return id;
    }

    private double Number(string script) => Convert.ToDouble(Browser.Js(script), CultureInfo.InvariantCulture);

    /// <summary>Presses at a joint's place on the screen, a little off it, and drags.</summary>
    private void Drag(string joint, int offX, int offY, int byX, int byY)
    {
        var x = (int)Number($"return eidolon.at('{joint}')[0]") + offX;
        var y = (int)Number($"return eidolon.at('{joint}')[1]") + offY;
        var hand = new Actions(Browser.Driver, TimeSpan.FromMilliseconds(60)).MoveToLocation(x, y).ClickAndHold();
        for (var k = 1; k <= 4; k++)
        {
            hand.MoveToLocation(x + (byX * k / 4), y + (byY * k / 4));
        }

        hand.Release().Perform();
    }

    [Fact]
    public async Task Weights_are_seen_as_colour_painted_over_bent_to_see_and_taken_back()
    {
        var id = await New("Painted", HarbourCharacters.Build("Stevedore"));
        Browser.Open($"/library/characters/{id}");
        Key("w");
        Browser.Until("return eidolon.weights.parts.length > 0", "the weights");
        var joint = Library.Prepare(id)!.Made.Sheet.Roles[BodyRole.ShinL];
        Browser.Js(
            "document.querySelector(`.e-hierarchy [data-joint='${arguments[0]}']`).dispatchEvent(new MouseEvent('click', { bubbles: true }))",
            joint
        );
        Browser.Until($"return document.getElementById('weight-said').textContent.startsWith('{joint} moves')", "what it moves");
        // As colour: what it moves is lighter than what it does not.
        Assert.Equal(
            true,
            Browser.Js(
                """
                const w = eidolon.weights, of = (v) => w.of(v, w.bone);
                const part = w.parts.find((p) => [...Array(p.count).keys()].some((v) => of(p.start + v) > 0.99));
                const c = part.mesh.geometry.attributes.color;
                let most = 0, none = 0;
                for (let v = 0; v < part.count; v++) { if (of(part.start + v) > 0.99) most = v; if (of(part.start + v) === 0) none = v; }
                return c.getX(most) !== c.getX(none);
                """
            )
        );
        var before = Library.Weights(id)!.Value.Weights;
        // Up the thigh, which the shin does not move.
        Drag(joint, 0, -22, 2, -16);
        Browser.Until(
            "return document.getElementById('strokes').textContent === '1' && document.body.dataset.ready === 'true'",
            "the stroke"
        );
        var after = Library.Weights(id)!.Value.Weights;
        Assert.NotEqual(before.Weights, after.Weights);
        // What the page shows is what the server has.
        var bone = (int)Number("return eidolon.weights.bone");
        Assert.Equal(
            Enumerable.Range(0, after.Joints.Length).Sum(v => Of(after, v, bone)),
            Number("const w = eidolon.weights; let s = 0; for (let v = 0; v < w.which.length / 4; v++) s += w.of(v, w.bone); return s"),
            .5
        );
        Browser.Js("const s = document.getElementById('bend'); s.value = 60; s.dispatchEvent(new Event('input', { bubbles: true }))");
        Assert.Equal("60°", Browser.One("#bend-is").Text);
        Assert.Equal(true, Browser.Js("return !!eidolon.weights.bent"));
        Key("u");
        Browser.Until(
            "return document.getElementById('strokes').textContent === '0' && document.body.dataset.ready === 'true'",
            "taken back"
        );
        Assert.Equal(before.Weights, Library.Weights(id)!.Value.Weights.Weights);
        Key("w");
        Assert.Equal("none", Browser.Js("return getComputedStyle(document.getElementById('part-weights')).display"));
        Assert.Empty(Browser.Problems());
    }

    [Fact]
    public async Task A_joint_found_in_a_bare_mesh_is_dragged_on_both_sides_and_bound_anew()
    {
        var (_, figure) = HarbourCharacters.Figure("Lamplighter");
        var id = await New("Bare", GltfSkinWriter.WriteBare(figure, "bare", Matrix4x4.Identity));
        var was = Library.Prepare(id)!.File.Placed!;
        Browser.Open($"/library/characters/{id}");
        Key("w");
        Click("#place-joints");
        Assert.True(Browser.One("#bind-anew").GetAttribute("disabled") is not null);
        Drag("ShinL", 0, 0, 0, 14);
        Assert.Equal(2, Number("return eidolon.placing.moved.size"));
        Click("#place-back");
        Assert.Equal(0, Number("return eidolon.placing.moved.size"));
        Drag("ShinL", 0, 0, 0, 14);
        Click("#bind-anew");
        Browser.Until(
            "return document.querySelector('.e-where .meta').textContent.includes('bound anew') && document.body.dataset.ready === 'true'",
            "the binding"
        );
        var now = Library.Prepare(id)!.File.Placed!;
        var (left, right) = (was[BodyRole.ShinL].Y - now[BodyRole.ShinL].Y, was[BodyRole.ShinR].Y - now[BodyRole.ShinR].Y);
        Assert.InRange(left, .01, .2);
        Assert.Equal(left, right, .01f);
        Assert.Equal(was[BodyRole.Head], now[BodyRole.Head]);
        Assert.Empty(Browser.Problems());
    }

    private static float Of(Core.Characters.Binding.SkinWeights w, int v, int bone)
    {
        var (j, s) = (w.Joints[v], w.Weights[v]);
        return (j.A == bone ? s.X : 0) + (j.B == bone ? s.Y : 0) + (j.C == bone ? s.Z : 0) + (j.D == bone ? s.W : 0);
    }
}
