using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PassedOn : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "aim",
                table: "alert_steps",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "rung",
                table: "alert_steps",
                type: "integer",
                nullable: false,
                defaultValue: 0);
        
            migrationBuilder.Sql("update alert_steps set rung = index");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "aim",
                table: "alert_steps");

            migrationBuilder.DropColumn(
                name: "rung",
                table: "alert_steps");
        }
    }
}
