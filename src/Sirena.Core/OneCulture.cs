using System.Globalization;
using System.Runtime.CompilerServices;

namespace Sirena.Core;

/// <summary>
/// The application is one process in one culture: what it writes and reads does not depend on the language of the machine. Readers' languages are Sirena's own
/// (<see cref="Wordings.TextLanguage"/>).
/// </summary>
internal static class OneCulture
{
    /// <summary>Holds from when the core is first used, for every thread.</summary>
#pragma warning disable CA2255 // Whoever uses the core, in whichever host, is to be in this culture: there is no other place that all of them pass.
    [ModuleInitializer]
    internal static void Set()
#pragma warning restore CA2255
    {
        CultureInfo.DefaultThreadCurrentCulture = CultureInfo.DefaultThreadCurrentUICulture = CultureInfo.InvariantCulture;
        CultureInfo.CurrentCulture = CultureInfo.CurrentUICulture = CultureInfo.InvariantCulture;
    }
}
