using System.Globalization;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Browser.Tests;

/// <summary>What tests of a take's pages do: look takes up, click, press keys, and wait until a change of the Ledger is on the page.</summary>
/// <param name="studio">What is tested.</param>
/// <param name="downloads">Where files go that pages offer.</param>
/// <param name="paints">It is about what is seen on the Stage: pictures are painted. Elsewhere they would take a third of the time.</param>
public abstract class TakePage(DemoStudio studio, string? downloads = null, bool paints = false) : IDisposable
{
    /// <summary>Tests ask what is on a page, not how fine it is drawn: a software picture costs by its pixels.</summary>
    public const double Coarse = 0.5;

    protected DemoStudio Server { get; } = studio;

    protected Screenshots.Browser Browser { get; } = new(studio.Address, downloads, Coarse, paints, OneBrowser.Running);

    public virtual void Dispose()
    {
        Browser.Dispose();
        GC.SuppressFinalize(this);
    }

    protected EidolonDb Db() => Server.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    protected Take Take(string name)
    {
        using var db = Db();
        return db.Takes.Include(t => t.Parts).Single(t => t.Name == name);
    }

    /// <summary>The entries of a take, node after node in the order they stand in.</summary>
    protected IReadOnlyList<DraftEntry> Entries(string take) => Entries(LedgerOwner.Take(Take(take).Id));

    protected IReadOnlyList<DraftEntry> Entries(LedgerOwner owner) =>
        [.. Server.Services.GetRequiredService<LedgerBook>().Read(owner).Nodes.SelectMany(n => n.Entries)];

    /// <summary>On a take's Retarget page: who plays whom, and waits until the character moves.</summary>
    protected void Cast(string who, string whom)
    {
        var figures = Convert.ToInt32(Browser.Js("return eidolon.stage.figures.length"), CultureInfo.InvariantCulture);
        Browser.Js(
            """
            for (const [id, text] of [['who', arguments[0]], ['whom', arguments[1]]]) { const s = document.getElementById(id);
            s.value = [...s.options].find(o => o.text === text).value; }
            """,
            who,
            whom
        );
        Click("#cast-it");
        Browser.Until(
            $$"""
            return document.body.dataset.ready === 'true' && location.search.includes('cast=')
            && eidolon.stage.figures.length === {{figures + 1}} && !document.querySelector('#job progress')
            """,
            $"the {whom} to move",
            120
        );
        // A page that is about to be loaded anew does not say that it is ready: what is there now stays.
        Assert.Equal(figures + 1L, Browser.Js("return eidolon.stage.figures.length"));
    }

    protected void Click(string css) => Browser.Js("arguments[0].click()", Browser.One(css));

    protected void Key(string key) =>
        Browser.Js("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: arguments[0], bubbles: true }))", key);

    /// <summary>Does something to the Ledger and waits until the page shows the state that comes of it, in place or loaded anew.</summary>
    protected void Change(Action act, string what)
    {
        const string State =
            "[document.getElementById('main')?.dataset.state, document.querySelector('#part-ledger ol')?.dataset.revision].join()";
        var before = (string)Browser.Js($"return {State}")!;
        act();
        Browser.Until(
            $$"""
            return !!document.querySelector('#job [role=alert]') || (document.readyState === 'complete' && {{State}} !== '{{before}}'
            && !document.getElementById('main')?.dataset.job && !document.querySelector('#job progress'))
            """,
            $"{what} to finish",
            120
        );
        Assert.False(
            Browser.Has("#job [role=alert]"),
            Browser.Has("#job [role=alert]") ? Browser.One("#job [role=alert]").Text : string.Empty
        );
        Browser.Ready();
    }
}
