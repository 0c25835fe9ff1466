using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace NeatCrate.Store.Migrations
{
    /// <inheritdoc />
    public partial class PlanHistoryIndex : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "IsKept",
                table: "Plans",
                type: "INTEGER",
                nullable: false,
                defaultValue: true);

            migrationBuilder.Sql("UPDATE Plans SET IsKept = 0 WHERE Json = ''");

            migrationBuilder.CreateIndex(
                name: "IX_Plans_History",
                table: "Plans",
                columns: new[] { "SessionId", "EndedMs", "Id", "Kind", "Sentence", "State", "Note", "IsKept", "Undoes", "MadePath" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Plans_History",
                table: "Plans");

            migrationBuilder.DropColumn(
                name: "IsKept",
                table: "Plans");
        }
    }
}
