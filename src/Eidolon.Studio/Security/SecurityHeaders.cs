namespace Eidolon.Studio.Security;

/// <summary>A strict Content-Security-Policy and its companions on every answer.</summary>
public sealed class SecurityHeaders(RequestDelegate next)
{
    public Task InvokeAsync(HttpContext context, NonceSource nonce)
    {
        var h = context.Response.Headers;
        h.ContentSecurityPolicy =
            $"default-src 'none'; script-src 'self' 'nonce-{nonce.Value}'; style-src 'self'; font-src 'self'; "
            + "img-src 'self' data: blob:; media-src 'self'; "
            + $"connect-src 'self' ws://{context.Request.Host}; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";
        h.XContentTypeOptions = "nosniff";
        // With "no-referrer" a form of ours would say that it comes from nowhere, as a foreign one does.
        h["Referrer-Policy"] = "same-origin";
        h["Cross-Origin-Resource-Policy"] = "same-origin";
        h["Cross-Origin-Opener-Policy"] = "same-origin";
        h["Permissions-Policy"] = "camera=(), microphone=(), geolocation=()";
        return next(context);
    }
}
