using System.Reflection;
using Microsoft.AspNetCore.Mvc.ModelBinding.Metadata;

namespace Sirena.Web;

/// <summary>
/// A text that is blank is an empty text where the page's property is a text that is never null. Binding would otherwise make null of it, against what the
/// property's type says.
/// </summary>
internal sealed class EmptyTexts : IDisplayMetadataProvider
{
    /// <inheritdoc/>
    public void CreateDisplayMetadata(DisplayMetadataProviderContext context)
    {
        if (
            context.Key is { MetadataKind: ModelMetadataKind.Property, PropertyInfo: { } property }
            && property.PropertyType == typeof(string)
            && new NullabilityInfoContext().Create(property).WriteState == NullabilityState.NotNull
        )
        {
            context.DisplayMetadata.ConvertEmptyStringToNull = false;
        }
    }
}
