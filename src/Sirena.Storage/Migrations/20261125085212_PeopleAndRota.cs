using System;
using System.Collections.Generic;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace Sirena.Storage.Migrations
{
    /// <inheritdoc />
    public partial class PeopleAndRota : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "may_opt_out",
                table: "teams",
                type: "boolean",
                nullable: false,
                defaultValue: true);

            migrationBuilder.AddColumn<string>(
                name: "printer",
                table: "sites",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "team",
                table: "sites",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "away",
                table: "people",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<List<string>>(
                name: "codes",
                table: "people",
                type: "text[]",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<string>(
                name: "email",
                table: "people",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "first",
                table: "people",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'");

            migrationBuilder.AddColumn<string>(
                name: "opt_outs",
                table: "people",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<bool>(
                name: "outside",
                table: "people",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "quiet",
                table: "people",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<bool>(
                name: "pending",
                table: "contact_points",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "quiet",
                table: "business",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'");

            migrationBuilder.AddColumn<string>(
                name: "quiet_passes",
                table: "business",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<long>(
                name: "rota_version",
                table: "business",
                type: "bigint",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<string>(
                name: "feed",
                table: "api_tokens",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "unreached",
                table: "alerts",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateTable(
                name: "contact_codes",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    person = table.Column<string>(type: "text", nullable: false),
                    channel = table.Column<string>(type: "text", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    wrong = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_contact_codes", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "shifts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    team = table.Column<string>(type: "text", nullable: false),
                    uid = table.Column<string>(type: "text", nullable: false),
                    people = table.Column<List<string>>(type: "text[]", nullable: false),
                    component = table.Column<string>(type: "text", nullable: false),
                    wall_clock = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_shifts", x => x.id);
                });

            migrationBuilder.UpdateData(
                table: "business",
                keyColumn: "id",
                keyValue: 1,
                columns: new[] { "quiet", "quiet_passes", "rota_version" },
                values: new object[] { "[]", "urgent", 0L });

            migrationBuilder.CreateIndex(
                name: "ix_contact_points_address",
                table: "contact_points",
                column: "address");

            migrationBuilder.CreateIndex(
                name: "ix_alerts_unreached",
                table: "alerts",
                column: "raised_at",
                filter: "unreached > 0");

            migrationBuilder.CreateIndex(
                name: "ix_contact_codes_person",
                table: "contact_codes",
                column: "person");

            migrationBuilder.CreateIndex(
                name: "ix_shifts_team_uid",
                table: "shifts",
                columns: new[] { "team", "uid" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "contact_codes");

            migrationBuilder.DropTable(
                name: "shifts");

            migrationBuilder.DropIndex(
                name: "ix_contact_points_address",
                table: "contact_points");

            migrationBuilder.DropIndex(
                name: "ix_alerts_unreached",
                table: "alerts");

            migrationBuilder.DropColumn(
                name: "may_opt_out",
                table: "teams");

            migrationBuilder.DropColumn(
                name: "printer",
                table: "sites");

            migrationBuilder.DropColumn(
                name: "team",
                table: "sites");

            migrationBuilder.DropColumn(
                name: "away",
                table: "people");

            migrationBuilder.DropColumn(
                name: "codes",
                table: "people");

            migrationBuilder.DropColumn(
                name: "email",
                table: "people");

            migrationBuilder.DropColumn(
                name: "first",
                table: "people");

            migrationBuilder.DropColumn(
                name: "opt_outs",
                table: "people");

            migrationBuilder.DropColumn(
                name: "outside",
                table: "people");

            migrationBuilder.DropColumn(
                name: "quiet",
                table: "people");

            migrationBuilder.DropColumn(
                name: "pending",
                table: "contact_points");

            migrationBuilder.DropColumn(
                name: "quiet",
                table: "business");

            migrationBuilder.DropColumn(
                name: "quiet_passes",
                table: "business");

            migrationBuilder.DropColumn(
                name: "rota_version",
                table: "business");

            migrationBuilder.DropColumn(
                name: "feed",
                table: "api_tokens");

            migrationBuilder.DropColumn(
                name: "unreached",
                table: "alerts");
        }
    }
}
