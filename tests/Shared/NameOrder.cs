using Xunit.Sdk;
using Xunit.v3;

[assembly: Xunit.TestCaseOrderer(typeof(Sirena.Tests.NameOrder))]
[assembly: Xunit.TestCollectionOrderer(typeof(Sirena.Tests.NameOrder))]

namespace Sirena.Tests;

/// <summary>Tests run by name, so that they come in the same order wherever the project lies.</summary>
public sealed class NameOrder : ITestCaseOrderer, ITestCollectionOrderer
{
    public IReadOnlyCollection<TTestCase> OrderTestCases<TTestCase>(IReadOnlyCollection<TTestCase> testCases)
        where TTestCase : notnull, ITestCase => [.. testCases.OrderBy(t => t.TestCaseDisplayName, StringComparer.Ordinal)];

    public IReadOnlyCollection<TTestCollection> OrderTestCollections<TTestCollection>(IReadOnlyCollection<TTestCollection> testCollections)
        where TTestCollection : ITestCollection => [.. testCollections.OrderBy(c => c.TestCollectionDisplayName, StringComparer.Ordinal)];
}
