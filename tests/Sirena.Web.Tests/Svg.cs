using System.Globalization;
using System.Xml.Linq;

namespace Sirena.Web.Tests;

/// <summary>What stands in a drawing.</summary>
internal static class Svg
{
    /// <summary>Its texts, in their order.</summary>
    public static string[] Texts(XElement svg) => [.. svg.Descendants("text").Select(t => t.Value)];

    /// <summary>A number of one of its elements, also of one in hundredths.</summary>
    public static double Number(XElement e, string name) => double.Parse(e.Attribute(name)!.Value.TrimEnd('%'), CultureInfo.InvariantCulture);
}
