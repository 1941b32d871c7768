using System.Text.Json;
using Eidolon.Studio.Live;
using Eidolon.Testing;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Browser.Tests;

/// <summary>A page of somebody else in the same browser, from another origin, tries everything a page can: nothing of the studio changes or is read.</summary>
public sealed class HostilePageTests(DemoStudio studio) : TakePage(studio), IClassFixture<DemoStudio>
{
    /// <summary>Everything a foreign page may try without the person doing anything. {0} is the studio.</summary>
    private const string Page = """
        <!doctype html><title>Free horses</title><iframe name="sink" id="sink"></iframe>
        <form id="plain" method="post" target="sink" action="{0}/?handler=Day"><input name="name" value="Evil form"></form>
        <form id="upload" method="post" target="sink" enctype="multipart/form-data" action="{0}/?handler=Day"><input name="name" value="Evil upload"></form>
        <iframe id="framed" src="{0}/"></iframe><img id="picture" src="{0}/icon.svg">
        <script>
        window.results = {};
        const note = (k, v) => { window.results[k] = v; };
        const tried = async (k, f) => { try { note(k, await f()); } catch (e) { note(k, "no"); } };
        const socket = (k, path, said) => new Promise((done) => {
          const ws = new WebSocket("{0}".replace("http", "ws") + path);
          ws.onopen = () => { ws.send(said); setTimeout(() => { note(k, "open"); done(); }, 500); };
          ws.onerror = () => { note(k, "no"); done(); };
        });
        (async () => {
          await tried("post", async () => {
            await fetch("{0}/?handler=Day", { method: "POST", mode: "no-cors", body: new URLSearchParams({ name: "Evil fetch" }) });
            return "sent";
          });
          await tried("read", async () => (await (await fetch("{0}/")).text()).length);
          await tried("credentials", async () => (await (await fetch("{0}/api/live/scene", { credentials: "include" })).text()).length);
          await tried("negotiate", async () => (await fetch("{0}/hubs/live/negotiate?negotiateVersion=1", { method: "POST", mode: "no-cors" })).type);
          await socket("socket", "/hubs/live", '{"protocol":"json","version":1}\u001e{"type":1,"target":"Stop","arguments":[]}\u001e');
          await socket("hold", "/hubs/hold", '{"protocol":"json","version":1}\u001e');
          document.getElementById("plain").submit();
          setTimeout(() => {
            document.getElementById("upload").submit();
            setTimeout(() => {
              try { note("framed", document.getElementById("framed").contentDocument ? "mine" : "other"); } catch (e) { note("framed", "other"); }
              note("done", true);
            }, 1000);
          }, 1000);
        })();
        const s = document.createElement("script");
        s.src = "{0}/files/cameras.json"; s.onload = () => note("script", "loaded"); s.onerror = () => note("script", "no");
        document.head.append(s);
        </script>
        """;

    [Theory]
    [InlineData("127.0.0.1")]
    [InlineData("localhost")]
    public async Task A_foreign_page_neither_changes_nor_reads_anything(string host)
    {
        await using var foreign = WebApplication.CreateSlimBuilder().Build();
        foreign.Urls.Add("http://127.0.0.1:0");
        foreign.MapGet("/", () => Results.Content(Page.Replace("{0}", Server.Address, StringComparison.Ordinal), "text/html"));
        await foreign.StartAsync();
        var days = Days();
        // The person works in the studio: its cookies are in this browser.
        Browser.Open("/");
        var port = new Uri(foreign.Urls.First()).Port;
        Browser.Driver.Navigate().GoToUrl($"http://{host}:{port}/");
        Browser.Until("return window.results?.done === true", "everything to have been tried");
        var results = JsonSerializer.Deserialize<Dictionary<string, JsonElement>>(
            (string)Browser.Js("return JSON.stringify(window.results)")!
        )!;
        Assert.Equal(days, Days());
        Assert.Equal("no", results["read"].ToString());
        Assert.Equal("no", results["credentials"].ToString());
        Assert.Equal("no", results["socket"].ToString());
        Assert.Equal("no", results["hold"].ToString());
        Assert.Equal("no", results["script"].ToString());
        Assert.Equal("other", results["framed"].ToString());
        Assert.Equal("Ready", Server.Services.GetRequiredService<Recorder>().Now().State);
        // And the person goes on as before.
        Browser.Open("/record");
        Browser.Until(
            "return document.querySelectorAll('#checks li[data-check], #checks li').length > 2",
            "the live connection of the studio's own page"
        );
    }

    private List<string> Days()
    {
        using var db = Db();
        return [.. db.Days.AsNoTracking().Select(d => d.Name)];
    }
}
