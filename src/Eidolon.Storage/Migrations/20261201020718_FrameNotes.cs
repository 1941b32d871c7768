using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Eidolon.Storage.Migrations
{
    /// <inheritdoc />
    public partial class FrameNotes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "FrameNotes",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    TakeId = table.Column<int>(type: "INTEGER", nullable: false),
                    Frame = table.Column<int>(type: "INTEGER", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    CreatedUtc = table.Column<DateTime>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_FrameNotes", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_FrameNotes_TakeId",
                table: "FrameNotes",
                column: "TakeId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "FrameNotes");
        }
    }
}
