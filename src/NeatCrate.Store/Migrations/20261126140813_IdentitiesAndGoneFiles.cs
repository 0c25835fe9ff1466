using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace NeatCrate.Store.Migrations
{
    /// <inheritdoc />
    public partial class IdentitiesAndGoneFiles : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // Kept without a number, they would not be trusted any more.
            migrationBuilder.Sql("DELETE FROM Identities");

            migrationBuilder.DropPrimaryKey(
                name: "PK_Identities",
                table: "Identities");

            migrationBuilder.AddColumn<Guid>(
                name: "ShelfId",
                table: "Identities",
                type: "TEXT",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"));

            migrationBuilder.AddColumn<long>(
                name: "Number",
                table: "Identities",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddColumn<long>(
                name: "StatusTicks",
                table: "Identities",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.AddPrimaryKey(
                name: "PK_Identities",
                table: "Identities",
                columns: new[] { "ShelfId", "Path" });

            migrationBuilder.CreateTable(
                name: "GoneFiles",
                columns: table => new
                {
                    ShelfId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Path = table.Column<string>(type: "TEXT", nullable: false),
                    FoldedName = table.Column<string>(type: "TEXT", nullable: false),
                    Bytes = table.Column<long>(type: "INTEGER", nullable: false),
                    ChangedTicks = table.Column<long>(type: "INTEGER", nullable: false),
                    Kind = table.Column<string>(type: "TEXT", nullable: true),
                    Container = table.Column<string>(type: "TEXT", nullable: true),
                    SampleRate = table.Column<int>(type: "INTEGER", nullable: true),
                    Channels = table.Column<int>(type: "INTEGER", nullable: true),
                    BitsPerSample = table.Column<int>(type: "INTEGER", nullable: true),
                    LengthSamples = table.Column<long>(type: "INTEGER", nullable: true),
                    GoneMs = table.Column<long>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_GoneFiles", x => new { x.ShelfId, x.Path });
                });

            migrationBuilder.CreateIndex(
                name: "IX_Identities_Hash",
                table: "Identities",
                column: "Hash");

            migrationBuilder.CreateIndex(
                name: "IX_Identities_Sound",
                table: "Identities",
                column: "Sound");

            migrationBuilder.CreateIndex(
                name: "IX_GoneFiles_Bytes_LengthSamples",
                table: "GoneFiles",
                columns: new[] { "Bytes", "LengthSamples" });

            migrationBuilder.CreateIndex(
                name: "IX_GoneFiles_FoldedName",
                table: "GoneFiles",
                column: "FoldedName");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "GoneFiles");

            migrationBuilder.DropPrimaryKey(
                name: "PK_Identities",
                table: "Identities");

            migrationBuilder.DropIndex(
                name: "IX_Identities_Hash",
                table: "Identities");

            migrationBuilder.DropIndex(
                name: "IX_Identities_Sound",
                table: "Identities");

            migrationBuilder.DropColumn(
                name: "ShelfId",
                table: "Identities");

            migrationBuilder.DropColumn(
                name: "Number",
                table: "Identities");

            migrationBuilder.DropColumn(
                name: "StatusTicks",
                table: "Identities");

            migrationBuilder.AddPrimaryKey(
                name: "PK_Identities",
                table: "Identities",
                column: "Path");
        }
    }
}
