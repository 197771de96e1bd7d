using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class Wordings : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "brand_colour",
                table: "business",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "brand_footer",
                table: "business",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "brand_header",
                table: "business",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<byte[]>(
                name: "logo",
                table: "business",
                type: "bytea",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "wordings",
                columns: table => new
                {
                    id = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    texts = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'"),
                    saved_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    saved_by = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_wordings", x => x.id);
                });

            migrationBuilder.UpdateData(
                table: "business",
                keyColumn: "id",
                keyValue: 1,
                columns: new[] { "brand_colour", "brand_footer", "brand_header", "logo" },
                values: new object[] { "#12343B", "", "", null });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "wordings");

            migrationBuilder.DropColumn(
                name: "brand_colour",
                table: "business");

            migrationBuilder.DropColumn(
                name: "brand_footer",
                table: "business");

            migrationBuilder.DropColumn(
                name: "brand_header",
                table: "business");

            migrationBuilder.DropColumn(
                name: "logo",
                table: "business");
        }
    }
}
