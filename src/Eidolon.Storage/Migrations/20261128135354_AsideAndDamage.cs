using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Eidolon.Storage.Migrations
{
    /// <inheritdoc />
    public partial class AsideAndDamage : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Takes_ProductionId_Name",
                table: "Takes");

            migrationBuilder.DropIndex(
                name: "IX_Subjects_ProductionId_Kind_Name",
                table: "Subjects");

            migrationBuilder.DropIndex(
                name: "IX_Scenes_ProductionId_Name",
                table: "Scenes");

            migrationBuilder.AddColumn<DateTime>(
                name: "AsideUtc",
                table: "Takes",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<DateTime>(
                name: "AsideUtc",
                table: "Subjects",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "LeftOut",
                table: "Streams",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<DateTime>(
                name: "AsideUtc",
                table: "Scenes",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<DateTime>(
                name: "AsideUtc",
                table: "Recipes",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<DateTime>(
                name: "AsideUtc",
                table: "Days",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_Takes_ProductionId_Name",
                table: "Takes",
                columns: new[] { "ProductionId", "Name" },
                unique: true,
                filter: "\"AsideUtc\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Subjects_ProductionId_Kind_Name",
                table: "Subjects",
                columns: new[] { "ProductionId", "Kind", "Name" },
                unique: true,
                filter: "\"AsideUtc\" IS NULL");

            migrationBuilder.CreateIndex(
                name: "IX_Scenes_ProductionId_Name",
                table: "Scenes",
                columns: new[] { "ProductionId", "Name" },
                unique: true,
                filter: "\"AsideUtc\" IS NULL");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Takes_ProductionId_Name",
                table: "Takes");

            migrationBuilder.DropIndex(
                name: "IX_Subjects_ProductionId_Kind_Name",
                table: "Subjects");

            migrationBuilder.DropIndex(
                name: "IX_Scenes_ProductionId_Name",
                table: "Scenes");

            migrationBuilder.DropColumn(
                name: "AsideUtc",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "AsideUtc",
                table: "Subjects");

            migrationBuilder.DropColumn(
                name: "LeftOut",
                table: "Streams");

            migrationBuilder.DropColumn(
                name: "AsideUtc",
                table: "Scenes");

            migrationBuilder.DropColumn(
                name: "AsideUtc",
                table: "Recipes");

            migrationBuilder.DropColumn(
                name: "AsideUtc",
                table: "Days");

            migrationBuilder.CreateIndex(
                name: "IX_Takes_ProductionId_Name",
                table: "Takes",
                columns: new[] { "ProductionId", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Subjects_ProductionId_Kind_Name",
                table: "Subjects",
                columns: new[] { "ProductionId", "Kind", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Scenes_ProductionId_Name",
                table: "Scenes",
                columns: new[] { "ProductionId", "Name" },
                unique: true);
        }
    }
}
