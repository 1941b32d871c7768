using Eidolon.Core;

namespace Eidolon.Studio.Api;

/// <summary>What an address names that is not there, or cannot be done, is an answer in words, never a fault.</summary>
public sealed class RefusalFilter : IEndpointFilter
{
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        try
        {
            return await next(context);
        }
        catch (RefusedException e)
        {
            return Results.NotFound(e.Message);
        }
        catch (DamagedDataException e)
        {
            return Results.Conflict(e.Message);
        }
    }
}
