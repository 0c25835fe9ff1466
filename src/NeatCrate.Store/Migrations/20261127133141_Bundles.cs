using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace NeatCrate.Store.Migrations
{
    /// <inheritdoc />
    public partial class Bundles : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Bundles",
                columns: table => new
                {
                    ShelfId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    ModifiedTicks = table.Column<long>(type: "INTEGER", nullable: false),
                    Entries = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Bundles", x => new { x.ShelfId, x.Path });
                });

            migrationBuilder.CreateIndex(
                name: "IX_CatalogueFiles_Archives",
                table: "CatalogueFiles",
                columns: new[] { "FolderId", "Name", "Bytes", "ChangedTicks" },
                filter: "Name LIKE '%.zip'");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Bundles");

            migrationBuilder.DropIndex(
                name: "IX_CatalogueFiles_Archives",
                table: "CatalogueFiles");
        }
    }
}
