using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Eidolon.Storage.Migrations
{
    /// <inheritdoc />
    public partial class ClipsAndTracksAside : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTime>(
                name: "AsideUtc",
                table: "Nodes",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<DateTime>(
                name: "AsideUtc",
                table: "Clips",
                type: "TEXT",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "AsideUtc",
                table: "Nodes");

            migrationBuilder.DropColumn(
                name: "AsideUtc",
                table: "Clips");
        }
    }
}
