using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace NeatCrate.Store.Migrations
{
    /// <inheritdoc />
    public partial class Catalogue : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "CatalogueFiles",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    FolderId = table.Column<long>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    ChangedTicks = table.Column<long>(type: "INTEGER", nullable: false),
                    Number = table.Column<long>(type: "INTEGER", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: true),
                    Container = table.Column<string>(type: "TEXT", nullable: true),
                    SampleRate = table.Column<int>(type: "INTEGER", nullable: true),
                    Channels = table.Column<int>(type: "INTEGER", nullable: true),
                    BitsPerSample = table.Column<int>(type: "INTEGER", nullable: true),
                    LengthSamples = table.Column<long>(type: "INTEGER", nullable: true),
                    Seconds = table.Column<double>(type: "REAL", nullable: true),
                    Problem = table.Column<string>(type: "TEXT", nullable: true),
                    SearchText = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_CatalogueFiles", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "CatalogueFolders",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    ShelfId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Fingerprint = table.Column<byte[]>(type: "BLOB", nullable: false),
                    Problem = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_CatalogueFolders", x => x.Id);
                });

            migrationBuilder.CreateTable(
                name: "Identities",
                columns: table => new
                {
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    ChangedTicks = table.Column<long>(type: "INTEGER", nullable: false),
                    Hash = table.Column<string>(type: "TEXT", nullable: false),
                    Sound = table.Column<string>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Identities", x => x.Path);
                });

            migrationBuilder.CreateTable(
                name: "Scans",
                columns: table => new
                {
                    ShelfId = table.Column<Guid>(type: "TEXT", nullable: false),
                    EndedMs = table.Column<long>(type: "INTEGER", nullable: false),
                    Folders = table.Column<int>(type: "INTEGER", nullable: false),
                    Files = table.Column<int>(type: "INTEGER", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Scans", x => x.ShelfId);
                });

            migrationBuilder.CreateIndex(
                name: "IX_CatalogueFiles_FolderId_Name",
                table: "CatalogueFiles",
                columns: new[] { "FolderId", "Name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_CatalogueFolders_ShelfId_Path",
                table: "CatalogueFolders",
                columns: new[] { "ShelfId", "Path" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "CatalogueFiles");

            migrationBuilder.DropTable(
                name: "CatalogueFolders");

            migrationBuilder.DropTable(
                name: "Identities");

            migrationBuilder.DropTable(
                name: "Scans");
        }
    }
}
