using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.DependencyInjection;

namespace Sirena.Engine.Sources;

/// <summary>The secrets of sources, encrypted at rest.</summary>
public sealed class SourceSecrets(IServiceProvider services)
{
    private IDataProtector Protector => services.GetRequiredService<IDataProtectionProvider>().CreateProtector("sources");

    /// <summary>A secret as it is kept.</summary>
    public string Close(string plain) => Protector.Protect(plain);

    /// <summary>A kept secret in plain.</summary>
    public string Open(string kept) => Protector.Unprotect(kept);
}
