using Xunit.Sdk;
using Xunit.v3;

[assembly: Xunit.TestCaseOrderer(typeof(Sirena.Tests.NameOrder))]
[assembly: Xunit.TestCollectionOrderer(typeof(Sirena.Tests.NameOrder))]

namespace Sirena.Tests;

/// <summary>
/// Tests run by name, so that they come in the same order wherever the project lies; the classes that take minutes begin first, or one core would wait for the
/// last of them.
/// </summary>
public sealed class NameOrder : ITestCaseOrderer, ITestCollectionOrderer
{
    private static readonly string[] Long = ["ReachTests", "WalkTests", "PeoplePagesTests", "SourcesPagesTests"];

    public IReadOnlyCollection<TTestCase> OrderTestCases<TTestCase>(IReadOnlyCollection<TTestCase> testCases)
        where TTestCase : notnull, ITestCase => [.. testCases.OrderBy(t => t.TestCaseDisplayName, StringComparer.Ordinal)];

    public IReadOnlyCollection<TTestCollection> OrderTestCollections<TTestCollection>(IReadOnlyCollection<TTestCollection> testCollections)
        where TTestCollection : ITestCollection =>
        [
            .. testCollections
                .OrderByDescending(c => Array.Exists(Long, l => c.TestCollectionDisplayName.Contains($".{l} ", StringComparison.Ordinal)))
                .ThenBy(c => c.TestCollectionDisplayName, StringComparer.Ordinal),
        ];
}
