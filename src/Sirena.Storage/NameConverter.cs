using Microsoft.EntityFrameworkCore.Storage.ValueConversion;
using Sirena.Core;

namespace Sirena.Storage;

/// <summary>An enum's member as its outside name, so that hand-written SQL and people read the same words.</summary>
public sealed class NameConverter<T>() : ValueConverter<T, string>(v => v.Name(), s => Names.Parse<T>(s)!.Value)
    where T : struct, Enum;
