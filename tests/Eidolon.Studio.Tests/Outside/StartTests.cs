using System.Net;
using System.Net.NetworkInformation;
using Eidolon.Core;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.AspNetCore.Builder;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>How the studio is started: what it listens on, and what it says when it cannot.</summary>
public sealed class StartTests
{
    [Fact]
    public void Options_are_read_and_everything_has_a_usual_value()
    {
        var usual = StudioArguments.Read(["serve"], "studio");
        Assert.Equal((IPAddress.Loopback, StudioArguments.UsualPort), (usual.Listen, usual.Port));
        Assert.EndsWith(Path.Combine(".eidolon", "studio"), usual.Data, StringComparison.Ordinal);
        var given = StudioArguments.Read(["demo", "--port", "0", "--listen", "::1", "--data", "/tmp/x"], "studio");
        Assert.Equal(("/tmp/x", IPAddress.IPv6Loopback, 0), (given.Data, given.Listen, given.Port));
    }

    [Theory]
    [InlineData("--listen 0.0.0.0", "no accounts")]
    [InlineData("--listen 192.168.0.7", "no accounts")]
    [InlineData("--listen ::", "no accounts")]
    [InlineData("--listen everywhere", "an address is wanted")]
    [InlineData("--port 70000", "65535")]
    [InlineData("--port -1", "65535")]
    [InlineData("--port", "wants a value")]
    [InlineData("--urls http://0.0.0.0:80", "there is no option")]
    public void What_cannot_be_used_is_refused_in_one_line(string line, string said)
    {
        var e = Assert.Throws<RefusedException>(() => StudioArguments.Read(["serve", .. line.Split(' ')], "studio"));
        Assert.Contains(said, e.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', e.Message);
    }

    [Fact]
    public async Task Settings_of_the_surroundings_bind_nothing_and_open_nothing()
    {
        var other = Free();
        (string Name, string Value)[] settings =
        [
            ("ASPNETCORE_URLS", $"http://0.0.0.0:{other}"),
            ("ASPNETCORE_HTTP_PORTS", $"{other}"),
            ("Kestrel__Endpoints__Evil__Url", $"http://0.0.0.0:{other}"),
            ("AllowedHosts", "*"),
            ("ASPNETCORE_ENVIRONMENT", "Development"),
        ];
        foreach (var (name, value) in settings)
        {
            Environment.SetEnvironmentVariable(name, value);
        }

        try
        {
            await using var studio = await EmptyStudio.Start();
            Assert.Equal("127.0.0.1", new Uri(Assert.Single(studio.App.Urls)).Host);
            Assert.DoesNotContain(IPGlobalProperties.GetIPGlobalProperties().GetActiveTcpListeners(), l => l.Port == other);
            using var http = new HttpClient();
            using var request = new HttpRequestMessage(HttpMethod.Get, studio.Address);
            request.Headers.Host = "attacker.example";
            Assert.Equal(HttpStatusCode.BadRequest, (await http.SendAsync(request)).StatusCode);
        }
        finally
        {
            foreach (var (name, _) in settings)
            {
                Environment.SetEnvironmentVariable(name, null);
            }
        }
    }

    [Fact]
    public async Task A_second_process_on_the_same_folder_is_told_and_harms_nothing()
    {
        await using var first = await EmptyStudio.Start();
        var folder = first.App.Services.GetService(typeof(StudioOptions)) as StudioOptions;
        var said = await Assert.ThrowsAsync<RefusedException>(() => EmptyStudio.Start(folder));
        Assert.Contains("another Eidolon", said.Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_port_in_use_is_one_line_before_anything_is_made()
    {
        await using var first = await EmptyStudio.Start();
        var folder = Path.Combine(Path.GetTempPath(), $"eidolon-port-{Guid.NewGuid():N}");
        var error = new StringWriter();
        var (before, port) = (Console.Error, new Uri(first.Address).Port);
        Console.SetError(error);
        try
        {
            Assert.Equal(1, await StudioHost.Run(["serve", "--data", folder, "--port", $"{port}"]));
        }
        finally
        {
            Console.SetError(before);
        }

        Assert.Contains("the port is in use", error.ToString(), StringComparison.Ordinal);
        Assert.Single(error.ToString().Trim().Split('\n'));
        Assert.False(Directory.Exists(folder));
    }

    private static int Free()
    {
        using var listener = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }
}
