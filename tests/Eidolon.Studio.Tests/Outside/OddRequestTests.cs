using System.Collections.Concurrent;
using System.Net;
using System.Reflection;
using System.Text.RegularExpressions;
using Eidolon.Testing;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>
/// Odd values to every endpoint that there is, found by reflection: a new one is covered by itself. No answer is a fault of the studio.
/// Every field is given one of the odd values, another one in the next place; the long run gives each of them everywhere.
/// </summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class OddRequestTests(DemoStudio demo) : IClassFixture<DemoStudio>
{
    [Fact]
    public Task No_odd_value_is_a_fault_of_the_studio() => new OddRequests(demo.App).Run();

    [Fact]
    public async Task No_odd_value_is_a_fault_of_a_studio_without_anything_in_it()
    {
        await using var empty = await EmptyStudio.Start();
        await new OddRequests(empty.App).Run();
    }
}

/// <summary>Asks a studio for everything it has, with odd values.</summary>
internal sealed class OddRequests(WebApplication studio)
{
    /// <summary>Odd values of a field in one place.</summary>
    private const int AFew = 1;

    /// <summary>Requests at a time: as from a few people at once.</summary>
    private const int AtOnce = 4;

    private sealed record Ask(string Method, string Address, (string Name, string Value)[] Form, string? File);

    /// <summary>Something a request brings: in the address' path, its query or the form.</summary>
    private sealed record Wanted(string Name, Type Type, bool InPath);

    public async Task Run()
    {
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false })
        {
            BaseAddress = new Uri(studio.Urls.First()),
            Timeout = TimeSpan.FromSeconds(Asking.PatienceSeconds),
        };
        var token = await http.Antiforgery();
        var asks = (await Endpoints()).Distinct().ToList();
        var faults = new ConcurrentBag<string>();
        var codes = new ConcurrentDictionary<HttpStatusCode, int>();
        await Parallel.ForEachAsync(asks, new ParallelOptions { MaxDegreeOfParallelism = AtOnce }, async (ask, cancel) =>
        {
            using var request = Build(ask, token);
            using var response = await http.SendAsync(request, cancel);
            codes.AddOrUpdate(response.StatusCode, 1, (_, n) => n + 1);
            var said = (int)response.StatusCode < 400 ? "fine" : await response.Content.ReadAsStringAsync(cancel);
            if ((int)response.StatusCode >= 500 || said.Trim().Length < 10 && said != "fine")
            {
                faults.Add($"{(int)response.StatusCode} {ask.Method} {ask.Address} {string.Join('&', ask.Form)} {ask.File} {LastFault()}");
            }
        });

        Assert.True(asks.Count > 600, $"{asks.Count} asked");
        Assert.True(
            faults.IsEmpty,
            $"{faults.Count} of {asks.Count}: {string.Join('\n', faults.Select(f => f.Length > 900 ? f[..900] : f).Order().Take(80))}"
        );
        Assert.True(codes[HttpStatusCode.OK] > 50 && codes[HttpStatusCode.BadRequest] > 50, string.Join(", ", codes));
        Assert.Equal("Healthy", await http.GetStringAsync("/healthz"));
    }

    /// <summary>What the log says of the fault that came last.</summary>
    private string LastFault()
    {
        var folder = Path.Combine(studio.Services.GetRequiredService<Services.StudioOptions>().DataFolder, "log");
        using var file = new FileStream(Directory.GetFiles(folder).Order().Last(), FileMode.Open, FileAccess.Read, FileShare.ReadWrite);
        using var reader = new StreamReader(file);
        return reader.ReadToEnd().Split('\n').LastOrDefault(l => l.Contains("Exception", StringComparison.Ordinal)) ?? string.Empty;
    }

    private async Task<List<Ask>> Endpoints()
    {
        var loader = studio.Services.GetRequiredService<PageLoader>();
        var asks = new List<Ask>();
        var pages = new HashSet<string>();
        foreach (var endpoint in studio.Services.GetServices<EndpointDataSource>().SelectMany(s => s.Endpoints).OfType<RouteEndpoint>())
        {
            if (endpoint.Metadata.GetMetadata<PageActionDescriptor>() is { } page)
            {
                if (pages.Add(endpoint.RoutePattern.RawText ?? string.Empty))
                {
                    var compiled = await loader.LoadAsync(page, EndpointMetadataCollection.Empty);
                    asks.AddRange(compiled.HandlerMethods.SelectMany(h => OfHandler(endpoint, compiled, h)));
                }
            }
            else if (
                endpoint.Metadata.GetMetadata<MethodInfo>() is { } method
                && endpoint.Metadata.GetMetadata<HttpMethodMetadata>() is { } verbs
            )
            {
                var wanted = method
                    .GetParameters()
                    .Where(p => Simple(p.ParameterType))
                    .Select(p => new Wanted(p.Name!, p.ParameterType, endpoint.RoutePattern.GetParameter(p.Name!) is not null))
                    .ToList();
                asks.AddRange(Variations(verbs.HttpMethods[0], endpoint, null, wanted));
            }
        }

        return asks;
    }

    private static IEnumerable<Ask> OfHandler(RouteEndpoint endpoint, CompiledPageActionDescriptor page, HandlerMethodDescriptor handler)
    {
        var bound = page.BoundProperties.Select(p => new Wanted(p.BindingInfo?.BinderModelName ?? p.Name, p.ParameterType, false));
        var own = handler
            .Parameters.Where(p => p.ParameterType != typeof(CancellationToken))
            .Select(p => new Wanted(p.Name, p.ParameterType, false));
        var inPath = endpoint.RoutePattern.Parameters.Select(p => new Wanted(p.Name, typeof(int), true)).ToList();
        var wanted = inPath.Concat(
            own.Concat(bound).Where(w => !inPath.Exists(p => p.Name.Equals(w.Name, StringComparison.OrdinalIgnoreCase)))
        );
        return Variations(handler.HttpMethod.ToUpperInvariant(), endpoint, handler.Name, [.. wanted.DistinctBy(w => w.Name)]);
    }

    /// <summary>What a record of a form is made of.</summary>
    private static IEnumerable<Wanted> Inside(Wanted wanted, bool prefixed) =>
        wanted.Type.Assembly != typeof(StudioHost).Assembly || wanted.Type.IsEnum
            ? [wanted]
            : wanted
                .Type.GetProperties()
                .Where(p => p.CanWrite)
                .Select(p => new Wanted(prefixed ? $"{wanted.Name}.{p.Name}" : p.Name, p.PropertyType, false));

    /// <summary>Everything usual but one; everything left out; everything odd.</summary>
    private static IEnumerable<Ask> Variations(string method, RouteEndpoint endpoint, string? handler, List<Wanted> wanted)
    {
        Ask Make(Func<Wanted, string?> value)
        {
            var path = "/" + endpoint.RoutePattern.RawText!.TrimStart('/');
            foreach (var w in wanted.Where(w => w.InPath))
            {
                path = Regex.Replace(
                    path,
                    $"\\{{{w.Name}[^}}]*\\}}",
                    Uri.EscapeDataString(value(w) ?? string.Empty),
                    RegexOptions.IgnoreCase
                );
            }

            var rest = wanted
                .Where(w => !w.InPath && !OddValues.IsFile(w.Type))
                .Select(w => (w.Name, Value: value(w)))
                .Where(p => p.Value is not null)
                .Select(p => (p.Name, p.Value!))
                .ToArray();
            var query = method == "GET" ? rest : [];
            var asked = (handler is null ? query : [("handler", handler), .. query]).Select(p =>
                $"{Uri.EscapeDataString(p.Item1)}={Uri.EscapeDataString(p.Item2)}"
            );
            return new Ask(
                method,
                path + (asked.Any() ? "?" + string.Join('&', asked) : string.Empty),
                method == "GET" ? [] : rest,
                wanted.Find(w => OddValues.IsFile(w.Type))?.Name
            );
        }

        string Usual(Wanted w) => w.InPath && w.Name == "step" ? "clean" : OddValues.Usual(w.Name, w.Type);
        yield return Make(Usual);
        yield return Make(w => w.InPath ? Usual(w) : null);
        yield return Make(w => OddValues.For(w.Type)[^1]);
        foreach (var (odd, n) in wanted.Select((w, i) => (w, i)))
        {
            // A zero byte in a path is refused by the server before anything of ours sees it.
            var values = OddValues.For(odd.Type).Where(v => !odd.InPath || v != "\0").ToList();
            var first = $"{endpoint.RoutePattern.RawText}{handler}".Sum(c => c) + (n * AFew);
            foreach (var value in LongRun.On ? values : Enumerable.Range(first, AFew).Select(i => values[i % values.Count]))
            {
                yield return Make(w => w == odd ? value : Usual(w));
            }
        }
    }

    private static bool Simple(Type type) =>
        type == typeof(string) || (Nullable.GetUnderlyingType(type) ?? type) is { IsPrimitive: true } or { IsEnum: true } || type.IsArray;

    private static HttpRequestMessage Build(Ask ask, string token)
    {
        var request = new HttpRequestMessage(new HttpMethod(ask.Method), ask.Address);
        if (ask.Method == "GET")
        {
            return request;
        }

        request.Headers.Add("X-Antiforgery", token);
        var fields = ask.Form.Select(p => KeyValuePair.Create(p.Name, p.Value));
        if (ask.File is null)
        {
            request.Content = new FormUrlEncodedContent(fields);
            return request;
        }

        var form = new MultipartFormDataContent();
        foreach (var (name, value) in fields)
        {
            form.Add(new StringContent(value), name);
        }

        form.Add(new ByteArrayContent([0, 1, 2, 255, 80]), ask.File, "odd.c3d");
        request.Content = form;
        return request;
    }
}
