using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class ReportKey : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "report_key",
                table: "business",
                type: "text",
                nullable: true);

            migrationBuilder.UpdateData(
                table: "business",
                keyColumn: "id",
                keyValue: 1,
                column: "report_key",
                value: null);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "report_key",
                table: "business");
        }
    }
}
