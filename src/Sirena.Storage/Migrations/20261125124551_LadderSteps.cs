using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class LadderSteps : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateIndex(
                name: "ix_alert_steps_due",
                table: "alert_steps",
                column: "due_at",
                filter: "fired_at is null");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_alert_steps_due",
                table: "alert_steps");
        }
    }
}
