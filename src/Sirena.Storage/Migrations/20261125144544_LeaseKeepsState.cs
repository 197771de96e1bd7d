using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class LeaseKeepsState : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_deliveries_due",
                table: "deliveries");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_due",
                table: "deliveries",
                columns: new[] { "channel", "due_at" },
                filter: "state = 'waiting'");

            // A claim and the end of an attempt touch no indexed column: with room in the page they stay in it.
            migrationBuilder.Sql("update deliveries set state = 'waiting' where state = 'sending'; alter table deliveries set (fillfactor = 70); alter table attempts set (fillfactor = 70)");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_deliveries_due",
                table: "deliveries");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_due",
                table: "deliveries",
                columns: new[] { "channel", "due_at" },
                filter: "state in ('waiting','sending')");
        }
    }
}
