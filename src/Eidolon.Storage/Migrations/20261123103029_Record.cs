using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Eidolon.Storage.Migrations
{
    /// <inheritdoc />
    public partial class Record : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "CalibrationId",
                table: "Takes",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Devices",
                table: "Takes",
                type: "TEXT",
                nullable: false,
                defaultValue: "[]");

            migrationBuilder.AddColumn<int>(
                name: "Rating",
                table: "Takes",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateTable(
                name: "Calibrations",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ProductionId = table.Column<int>(type: "INTEGER", nullable: false),
                    MadeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Cameras = table.Column<string>(type: "TEXT", nullable: false),
                    ResidualPixels = table.Column<double>(type: "REAL", nullable: false),
                    Report = table.Column<string>(type: "TEXT", nullable: false),
                    GroundUtc = table.Column<DateTime>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Calibrations", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "MarkerSets",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ProductionId = table.Column<int>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Json = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_MarkerSets", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Props",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ProductionId = table.Column<int>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Markers = table.Column<string>(type: "TEXT", nullable: false),
                    Tie = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Props", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Videos",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    TakeId = table.Column<int>(type: "INTEGER", nullable: false),
                    FileName = table.Column<string>(type: "TEXT", nullable: false),
                    ContentType = table.Column<string>(type: "TEXT", nullable: false),
                    Data = table.Column<byte[]>(type: "BLOB", nullable: false),
                    OffsetSeconds = table.Column<double>(type: "REAL", nullable: false),
                    TrimStart = table.Column<double>(type: "REAL", nullable: false),
                    TrimEnd = table.Column<double>(type: "REAL", nullable: false),
                    Speed = table.Column<double>(type: "REAL", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Videos", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_MarkerSets_ProductionId_Name",
                table: "MarkerSets",
                columns: new[] { "ProductionId", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Props_ProductionId_Name",
                table: "Props",
                columns: new[] { "ProductionId", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Videos_TakeId",
                table: "Videos",
                column: "TakeId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Calibrations");

            migrationBuilder.DropTable(
                name: "MarkerSets");

            migrationBuilder.DropTable(
                name: "Props");

            migrationBuilder.DropTable(
                name: "Videos");

            migrationBuilder.DropColumn(
                name: "CalibrationId",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "Devices",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "Rating",
                table: "Takes");
        }
    }
}
