using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Browser.Tests;

/// <summary>What tests of a take's pages do: look takes up, click, press keys, and wait until a change of the Ledger is on the page.</summary>
public abstract class TakePage(DemoStudio studio, string? downloads = null) : IDisposable
{
    protected DemoStudio Server { get; } = studio;

    protected Screenshots.Browser Browser { get; } = new(studio.Address, downloads);

    public virtual void Dispose()
    {
        Browser.Dispose();
        GC.SuppressFinalize(this);
    }

    protected EidolonDb Db() => Server.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    /// <summary>A take with its Ledger in order.</summary>
    protected Take Take(string name)
    {
        using var db = Db();
        return db.Takes.Include(t => t.Ledger.OrderBy(l => l.Position)).Single(t => t.Name == name);
    }

    protected void Click(string css) => Browser.Js("arguments[0].click()", Browser.One(css));

    protected void Key(string key) =>
        Browser.Js("document.body.dispatchEvent(new KeyboardEvent('keydown', { key: arguments[0], bubbles: true }))", key);

    /// <summary>Does something to the Ledger and waits until the page shows the state that comes of it, in place or loaded anew.</summary>
    protected void Change(Action act, string what)
    {
        var before = (string)Browser.Js("return document.getElementById('main').dataset.state")!;
        act();
        Browser.Until(
            $"return !!document.querySelector('#job [role=alert]') || (document.readyState === 'complete' && document.getElementById('main')?.dataset.state !== '{before}')",
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
