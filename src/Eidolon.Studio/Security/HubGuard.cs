using Eidolon.Core;
using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Security;

/// <summary>Every call of a live connection is checked like a form before it runs; what cannot be done is an answer in words.</summary>
public sealed class HubGuard : IHubFilter
{
    public async ValueTask<object?> InvokeMethodAsync(
        HubInvocationContext invocationContext,
        Func<HubInvocationContext, ValueTask<object?>> next
    )
    {
        var parameters = invocationContext.HubMethod.GetParameters();
        for (var i = 0; i < invocationContext.HubMethodArguments.Count; i++)
        {
            if (ArgumentCheck.Problem(parameters[i], invocationContext.HubMethodArguments[i]) is { } problem)
            {
                throw new HubException(problem);
            }
        }

        try
        {
            return await next(invocationContext);
        }
        catch (Exception e) when (e is RefusedException or DamagedDataException or InvalidInputException or ArgumentException)
        {
            throw new HubException(e.Message);
        }
    }
}
