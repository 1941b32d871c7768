using System.Reflection;
using Eidolon.Studio.Api;
using Eidolon.Studio.Live;
using Eidolon.Testing;
using Microsoft.AspNetCore.SignalR;
using Microsoft.AspNetCore.SignalR.Client;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>Every call of the live connections with odd arguments, found by reflection: an answer in words, and the studio goes on.</summary>
public sealed class HubTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private static readonly object?[] Texts = [null, "", "nobody", new string('x', 25_000), "\0"];
    private static readonly object?[] Numbers = [-1, 0, int.MaxValue];
    private static readonly object?[] Reals = [double.NaN, double.PositiveInfinity, -1e300];

    private async Task<HubConnection> Open(string hub)
    {
        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var token = await http.LiveToken();
        var connection = new HubConnectionBuilder()
            .WithUrl($"{studio.Address}/hubs/{hub}", o => o.AccessTokenProvider = () => Task.FromResult<string?>(token))
            .AddMessagePackProtocol()
            .Build();
        await connection.StartAsync();
        return connection;
    }

    [Theory]
    [InlineData("live", typeof(LiveHub))]
    [InlineData("hold", typeof(HoldHub))]
    public async Task Odd_arguments_are_answered_in_words(string hub, Type type)
    {
        await using var connection = await Open(hub);
        var asked = 0;
        foreach (var method in type.GetMethods(BindingFlags.Public | BindingFlags.Instance | BindingFlags.DeclaredOnly))
        {
            if (method.GetBaseDefinition().DeclaringType == typeof(Hub))
            {
                continue;
            }

            foreach (var arguments in Arguments(method))
            {
                asked++;
                try
                {
                    await connection
                        .InvokeCoreAsync(method.Name, typeof(object), arguments)
                        .WaitAsync(TimeSpan.FromSeconds(Asking.PatienceSeconds));
                }
                catch (HubException e)
                {
                    Assert.False(
                        e.Message.Contains("unexpected error", StringComparison.OrdinalIgnoreCase)
                            && !e.Message.Contains("HubException: ", StringComparison.Ordinal),
                        $"{method.Name}({string.Join(", ", arguments.Select(a => a?.ToString() is { Length: > 30 } s ? s[..30] : a ?? "null"))}): {e.Message}"
                    );
                }
            }
        }

        Assert.True(asked > 5);
        // Nothing ended and nothing hangs: the stage still tells how it is.
        await using var after = await Open("live");
        Assert.Equal("Ready", (await after.InvokeAsync<RecorderStatus>("Status")).State);
        using var http = new HttpClient();
        Assert.Equal("Healthy", await http.GetStringAsync($"{studio.Address}/healthz"));
    }

    /// <summary>Each parameter odd in turn, and all of them missing.</summary>
    private static IEnumerable<object?[]> Arguments(MethodInfo method)
    {
        var parameters = method.GetParameters();
        yield return [.. parameters.Select(p => p.ParameterType.IsValueType ? Usual(p.ParameterType) : null)];
        for (var i = 0; i < parameters.Length; i++)
        {
            foreach (var odd in Odd(parameters[i].ParameterType))
            {
                var arguments = parameters.Select(p => Usual(p.ParameterType)).ToArray();
                arguments[i] = odd;
                yield return arguments;
            }
        }
    }

    private static object?[] Odd(Type type) =>
        type == typeof(string) ? Texts
        : type == typeof(int) ? Numbers
        : type == typeof(double) ? Reals
        : type == typeof(int[]) ? [null, Array.Empty<int>(), new[] { -1, int.MaxValue }, new int[5000]]
        : type.IsEnum ? ["Nothing", "17"]
        : type == typeof(RecordRequest)
            ?
            [
                null,
                new RecordRequest(-1, "HL_001", 1, [1], string.Empty),
                new RecordRequest(1, null!, 1, [1], string.Empty),
                new RecordRequest(1, "../../x", 1, [1], string.Empty),
                new RecordRequest(1, "HL_001", int.MinValue, null!, null!),
                new RecordRequest(1, "HL_001_odd", 1, [999_999], string.Empty),
                new RecordRequest(1, "HL_001_odd", 2, [1], string.Empty, [999_999], 999_999),
            ]
        : [];

    private static object? Usual(Type type) =>
        type == typeof(string) ? "ring"
        : type == typeof(int) ? 1
        : type == typeof(double) ? 1.0
        : type == typeof(bool) ? false
        : type == typeof(int[]) ? Array.Empty<int>()
        : type.IsEnum ? Enum.GetNames(type)[0]
        : null;
}
