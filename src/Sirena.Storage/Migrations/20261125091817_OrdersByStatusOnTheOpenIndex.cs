using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class OrdersByStatusOnTheOpenIndex : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_orders_due_at_number1",
                table: "orders");

            migrationBuilder.DropIndex(
                name: "ix_orders_status_due",
                table: "orders");

            migrationBuilder.CreateIndex(
                name: "ix_orders_due_at_number1",
                table: "orders",
                columns: new[] { "due_at", "number" },
                filter: "open")
                .Annotation("Npgsql:IndexInclude", new[] { "status" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_orders_due_at_number1",
                table: "orders");

            migrationBuilder.CreateIndex(
                name: "ix_orders_due_at_number1",
                table: "orders",
                columns: new[] { "due_at", "number" },
                filter: "open");

            migrationBuilder.CreateIndex(
                name: "ix_orders_status_due",
                table: "orders",
                columns: new[] { "status", "due_at", "number" });
        }
    }
}
