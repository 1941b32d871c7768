using System.Reflection;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.ModelBinding.Metadata;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;

namespace Eidolon.Studio.Security;

/// <summary>
/// What a page's handler gets was checked: a text that was left out is an empty one, a number is one, a list is no longer than lists are. Whatever
/// cannot be read is answered with a sentence and nothing runs.
/// </summary>
public sealed class FormGuard : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        if (Problem(context) is { } problem)
        {
            context.Result = new BadRequestObjectResult($"{char.ToUpperInvariant(problem[0])}{problem[1..]}. Nothing was changed.");
            return Task.CompletedTask;
        }

        return next();
    }

    private static string? Problem(PageHandlerExecutingContext context)
    {
        foreach (var property in context.ActionDescriptor.BoundProperties.OfType<PageBoundPropertyDescriptor>())
        {
            // A list that was left blank is an empty one.
            if (property.ParameterType == typeof(List<string>) && property.Property.GetValue(context.HandlerInstance) is null)
            {
                property.Property.SetValue(context.HandlerInstance, new List<string>());
            }
        }

        foreach (var parameter in context.HandlerMethod?.MethodInfo.GetParameters() ?? [])
        {
            context.HandlerArguments.TryGetValue(parameter.Name!, out var value);
            if (
                value is null
                && parameter.ParameterType == typeof(string)
                && PlainTexts.Wanted(new NullabilityInfoContext().Create(parameter))
            )
            {
                context.HandlerArguments[parameter.Name!] = string.Empty;
            }
            else if (ArgumentCheck.Problem(parameter, value) is { } problem)
            {
                return problem;
            }
        }

        // An address with an odd value shows the page without it; a form with one is not obeyed. What a page binds to itself, and the fields of a
        // request that a handler takes whole, they judge themselves, beside the form.
        var own = context
            .ActionDescriptor.BoundProperties.Select(p => p.BindingInfo?.BinderModelName ?? p.Name)
            .Concat(Requests(context.HandlerMethod).SelectMany(r => r.GetProperties()).Select(p => p.Name))
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        return HttpMethods.IsGet(context.HttpContext.Request.Method) || context.ModelState.IsValid
            ? null
            : context
                .ModelState.Where(e => e.Value!.ValidationState == ModelValidationState.Invalid && !own.Contains(e.Key.Split('.', '[')[0]))
                .SelectMany(e => e.Value!.Errors)
                .Select(e => e.ErrorMessage.Length == 0 ? "what was sent cannot be used" : e.ErrorMessage.TrimEnd('.'))
                .FirstOrDefault();
    }

    private static IEnumerable<Type> Requests(HandlerMethodDescriptor? handler) =>
        (handler?.MethodInfo.GetParameters() ?? [])
            .Where(p => p.IsDefined(typeof(FromFormAttribute)) && p.ParameterType.DeclaringType is not null)
            .Select(p => p.ParameterType);
}

/// <summary>A text that must be there is empty, never nothing, when a form leaves it blank.</summary>
public sealed class PlainTexts : IDisplayMetadataProvider
{
    public void CreateDisplayMetadata(DisplayMetadataProviderContext context)
    {
        if (context.Key.ModelType != typeof(string))
        {
            return;
        }

        if (context.Key.MetadataKind == ModelMetadataKind.Type)
        {
            // A text in a list.
            context.DisplayMetadata.ConvertEmptyStringToNull = false;
            return;
        }

        var nullability = new NullabilityInfoContext();
        var info =
            context.Key.ParameterInfo is { } parameter ? nullability.Create(parameter)
            : context.Key.PropertyInfo is { } property ? nullability.Create(property)
            : null;
        if (info is not null && Wanted(info))
        {
            context.DisplayMetadata.ConvertEmptyStringToNull = false;
        }
    }

    internal static bool Wanted(NullabilityInfo info) => info.WriteState == NullabilityState.NotNull;
}
