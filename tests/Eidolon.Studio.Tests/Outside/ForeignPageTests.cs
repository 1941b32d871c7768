using System.Net;
using System.Net.Sockets;
using System.Text;
using Eidolon.Testing;
using Microsoft.Data.Sqlite;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>What a page of anybody else, or a name of anybody else for this machine, gets: nothing.</summary>
public sealed class ForeignPageTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private readonly HttpClient _http = new(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(studio.Address) };

    private int Port => new Uri(studio.Address).Port;

    private async Task<HttpStatusCode> Ask(HttpMethod method, string path, params (string Name, string Value)[] headers)
    {
        using var request = new HttpRequestMessage(method, path);
        foreach (var (name, value) in headers)
        {
            request.Headers.TryAddWithoutValidation(name, value);
        }

        if (method == HttpMethod.Post)
        {
            request.Content = new FormUrlEncodedContent([]);
        }

        using var response = await _http.SendAsync(request);
        return response.StatusCode;
    }

    private async Task<string> Live() => Uri.EscapeDataString(await _http.LiveToken());

    [Theory]
    [InlineData("attacker.example")]
    [InlineData("attacker.example:5240")]
    [InlineData("127.0.0.1.attacker.example")]
    [InlineData("192.168.0.7")]
    [InlineData("0.0.0.0")]
    public async Task A_name_that_is_not_this_machines_is_not_served(string host)
    {
        Assert.Equal(HttpStatusCode.BadRequest, await Ask(HttpMethod.Get, "/", ("Host", host)));
        Assert.Equal(HttpStatusCode.BadRequest, await Ask(HttpMethod.Post, "/?handler=Day", ("Host", host)));
    }

    [Theory]
    [InlineData("127.0.0.1")]
    [InlineData("localhost")]
    [InlineData("[::1]")]
    public async Task Names_of_this_machine_are_served(string host) =>
        Assert.Equal(HttpStatusCode.OK, await Ask(HttpMethod.Get, "/", ("Host", $"{host}:{Port}")));

    [Fact]
    public async Task A_request_without_a_name_is_not_served()
    {
        using var socket = new TcpClient();
        await socket.ConnectAsync(IPAddress.Loopback, Port);
        var stream = socket.GetStream();
        await stream.WriteAsync("GET / HTTP/1.0\r\n\r\n"u8.ToArray());
        using var reader = new StreamReader(stream, Encoding.ASCII);
        Assert.Contains("400", await reader.ReadLineAsync(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("http://attacker.example")]
    [InlineData("null")]
    [InlineData("http://127.0.0.1:1")]
    public async Task A_page_from_elsewhere_changes_nothing_and_opens_no_live_connection(string origin)
    {
        var token = await Live();
        Assert.Equal(HttpStatusCode.Forbidden, await Ask(HttpMethod.Post, "/?handler=Day", ("Origin", origin)));
        Assert.Equal(
            HttpStatusCode.Forbidden,
            await Ask(HttpMethod.Post, $"/hubs/live/negotiate?negotiateVersion=1&access_token={token}", ("Origin", origin))
        );
        Assert.Equal(HttpStatusCode.Forbidden, await Ask(HttpMethod.Get, $"/hubs/hold?access_token={token}", ("Origin", origin)));
    }

    [Fact]
    public async Task Only_a_link_from_elsewhere_is_answered()
    {
        Assert.Equal(HttpStatusCode.OK, await Ask(HttpMethod.Get, "/", ("Sec-Fetch-Site", "cross-site"), ("Sec-Fetch-Mode", "navigate")));
        Assert.Equal(HttpStatusCode.OK, await Ask(HttpMethod.Get, "/", ("Sec-Fetch-Site", "none"), ("Sec-Fetch-Mode", "navigate")));
        Assert.Equal(
            HttpStatusCode.Forbidden,
            await Ask(HttpMethod.Get, "/files/cameras.json", ("Sec-Fetch-Site", "same-site"), ("Sec-Fetch-Mode", "no-cors"))
        );
        Assert.Equal(
            HttpStatusCode.Forbidden,
            await Ask(HttpMethod.Post, "/", ("Sec-Fetch-Site", "cross-site"), ("Sec-Fetch-Mode", "navigate"))
        );
    }

    [Theory]
    [InlineData("")]
    [InlineData("access_token=guessed")]
    public async Task A_live_connection_wants_the_token(string query)
    {
        Assert.Equal(HttpStatusCode.Forbidden, await Ask(HttpMethod.Post, $"/hubs/live/negotiate?negotiateVersion=1&{query}"));
        Assert.Equal(
            HttpStatusCode.OK,
            await Ask(HttpMethod.Post, $"/hubs/live/negotiate?negotiateVersion=1&access_token={await Live()}", ("Origin", studio.Address))
        );
    }

    [Fact]
    public void Only_the_owner_can_look_into_the_folder()
    {
        SqliteConnection.ClearAllPools();
        const UnixFileMode others =
            UnixFileMode.GroupRead
            | UnixFileMode.GroupWrite
            | UnixFileMode.GroupExecute
            | UnixFileMode.OtherRead
            | UnixFileMode.OtherWrite
            | UnixFileMode.OtherExecute;
        Assert.Equal(UnixFileMode.None, File.GetUnixFileMode(studio.Folder) & others);
        foreach (var file in Directory.GetFiles(studio.Folder, "studio.db*"))
        {
            Assert.Equal(UnixFileMode.None, File.GetUnixFileMode(file) & (others | UnixFileMode.UserExecute));
        }
    }
}
