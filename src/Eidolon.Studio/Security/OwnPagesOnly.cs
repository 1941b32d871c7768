namespace Eidolon.Studio.Security;

/// <summary>
/// Only pages of this studio may change anything or open a live connection. Foreign pages are told by the Origin and by the browser's own word on
/// where a request comes from (Fetch Metadata); live connections say the studio's token too.
/// </summary>
public sealed class OwnPagesOnly(RequestDelegate next, HubToken token)
{
    /// <summary>Where the live connections are.</summary>
    public const string Hubs = "/hubs";

    public Task InvokeAsync(HttpContext context)
    {
        var request = context.Request;
        if (HttpMethods.IsTrace(request.Method) || HttpMethods.IsConnect(request.Method))
        {
            context.Response.StatusCode = StatusCodes.Status405MethodNotAllowed;
            return Task.CompletedTask;
        }

        var live = request.Path.StartsWithSegments(Hubs);
        if (Foreign(request, live))
        {
            return Refuse(context, "Only pages of this studio may ask for that.");
        }

        return live && !token.IsGood(Token(request))
            ? Refuse(context, "A live connection is opened by a page of this studio; load the page anew.")
            : next(context);
    }

    private static bool Foreign(HttpRequest request, bool live)
    {
        if (request.Headers.Origin is { Count: > 0 } origin && origin.ToString() != $"{request.Scheme}://{request.Host}")
        {
            return true;
        }

        // A link from elsewhere may open a page; nothing else from elsewhere is answered.
        var site = request.Headers["Sec-Fetch-Site"].ToString();
        var opens = HttpMethods.IsGet(request.Method) && !live && request.Headers["Sec-Fetch-Mode"].ToString() == "navigate";
        return site is not ("" or "same-origin" or "none") && !opens;
    }

    private static string? Token(HttpRequest request) =>
        request.Query["access_token"].ToString() is { Length: > 0 } asked
            ? asked
            : request.Headers.Authorization.ToString().Replace("Bearer ", string.Empty, StringComparison.Ordinal);

    private static Task Refuse(HttpContext context, string why)
    {
        context.Response.StatusCode = StatusCodes.Status403Forbidden;
        context.Response.ContentType = "text/plain; charset=utf-8";
        return context.Response.WriteAsync(why);
    }
}
