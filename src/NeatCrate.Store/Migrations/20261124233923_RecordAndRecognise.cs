using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace NeatCrate.Store.Migrations
{
    /// <inheritdoc />
    public partial class RecordAndRecognise : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "DocumentIdentity",
                table: "Sessions",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<Guid>(
                name: "DocumentSessionId",
                table: "Sessions",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Mirrors",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SessionId = table.Column<Guid>(type: "TEXT", nullable: false),
                    ShelfId = table.Column<Guid>(type: "TEXT", nullable: false),
                    TakePath = table.Column<string>(type: "TEXT", nullable: false),
                    MirrorPath = table.Column<string>(type: "TEXT", nullable: false),
                    State = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Mirrors", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Mirrors_MirrorPath",
                table: "Mirrors",
                column: "MirrorPath",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Mirrors_SessionId",
                table: "Mirrors",
                column: "SessionId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Mirrors");

            migrationBuilder.DropColumn(
                name: "DocumentIdentity",
                table: "Sessions");

            migrationBuilder.DropColumn(
                name: "DocumentSessionId",
                table: "Sessions");
        }
    }
}
