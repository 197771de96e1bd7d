using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace Sirena.Engine.Tests;

/// <summary>The schema that the migration makes, against the mappings.</summary>
public sealed class SchemaTests(DeskFixture desk) : IClassFixture<DeskFixture>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public async Task No_mapping_has_changed_since_the_migration_was_written()
    {
        await using var db = await desk.DbAsync();
        Assert.False(db.Database.HasPendingModelChanges());
        Assert.Empty(await db.Database.GetPendingMigrationsAsync(Cancel));
    }

    [Fact]
    public async Task Every_column_has_the_type_that_its_mapping_says_and_there_is_no_other()
    {
        await using var db = await desk.DbAsync();
        string[] mapped =
        [
            .. Tables(db.Model)
                .SelectMany(t => t.Columns.Select(c => $"{t.Name}.{c.Name} {Type(c.StoreType)}{(c.IsNullable ? "" : " not null")}"))
                .Order(StringComparer.Ordinal),
        ];
        var made = await db
            .Database.SqlQuery<string>(
                $"""
                select c.relname || '.' || a.attname || ' ' || format_type(a.atttypid, a.atttypmod)
                        || case when a.attnotnull then ' not null' else '' end as "Value"
                    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid = c.relnamespace
                    where n.nspname = 'public' and c.relkind in ('r', 'p') and a.attnum > 0 and not a.attisdropped and c.relname not like '\_\_%'
                """
            )
            .ToListAsync(Cancel);
        Assert.Equal(mapped, made.Order(StringComparer.Ordinal));
    }

    [Fact]
    public async Task Every_index_that_a_mapping_names_is_there_and_valid()
    {
        await using var db = await desk.DbAsync();
        string[] mapped = [.. Tables(db.Model).SelectMany(t => t.Indexes.Select(i => $"{t.Name} {i.Name}")).Order(StringComparer.Ordinal)];
        var made = await db
            .Database.SqlQuery<string>(
                $"""
                select t.relname || ' ' || i.relname as "Value" from pg_index x join pg_class i on i.oid = x.indexrelid join pg_class t on t.oid = x.indrelid
                    join pg_namespace n on n.oid = t.relnamespace where n.nspname = 'public' and x.indisvalid and x.indisready
                """
            )
            .ToListAsync(Cancel);
        Assert.NotEmpty(mapped);
        Assert.Empty(mapped.Except(made));
    }

    private static IEnumerable<ITable> Tables(IModel model) => model.GetRelationalModel().Tables;

    // The server's longer names for two of the types.
    private static string Type(string type) =>
        type.Replace("varchar", "character varying", StringComparison.Ordinal).Replace("timestamptz", "timestamp with time zone", StringComparison.Ordinal);
}
