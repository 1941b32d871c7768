using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.ModelBinding.Binders;

namespace Eidolon.Studio.Security;

/// <summary>A number in a form is one that can be counted with: "NaN" and "Infinity" are none, and no range lets them through.</summary>
public sealed class FiniteNumbers : IModelBinderProvider
{
    private readonly FloatingPointTypeModelBinderProvider _usual = new();

    public IModelBinder? GetBinder(ModelBinderProviderContext context) =>
        _usual.GetBinder(context) is { } binder && context.Metadata.UnderlyingOrModelType != typeof(decimal) ? new Binder(binder) : null;

    private sealed class Binder(IModelBinder usual) : IModelBinder
    {
        public async Task BindModelAsync(ModelBindingContext bindingContext)
        {
            await usual.BindModelAsync(bindingContext);
            if (
                bindingContext.Result.Model is double d && !double.IsFinite(d)
                || bindingContext.Result.Model is float f && !float.IsFinite(f)
            )
            {
                var name = bindingContext.ModelMetadata.DisplayName ?? bindingContext.ModelMetadata.Name ?? bindingContext.ModelName;
                bindingContext.ModelState.TryAddModelError(bindingContext.ModelName, $"{name} is no number.");
                bindingContext.Result = ModelBindingResult.Failed();
            }
        }
    }
}
