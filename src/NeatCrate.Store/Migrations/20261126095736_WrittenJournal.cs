using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace NeatCrate.Store.Migrations
{
    /// <inheritdoc />
    public partial class WrittenJournal : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<long>(
                name: "BeforeModifiedTicks",
                table: "Steps",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "Followed",
                table: "Plans",
                type: "INTEGER",
                nullable: false,
                defaultValue: true);

            migrationBuilder.AddColumn<string>(
                name: "MadePath",
                table: "Plans",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "MarksLeft",
                table: "Plans",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "BeforeModifiedTicks",
                table: "Steps");

            migrationBuilder.DropColumn(
                name: "Followed",
                table: "Plans");

            migrationBuilder.DropColumn(
                name: "MadePath",
                table: "Plans");

            migrationBuilder.DropColumn(
                name: "MarksLeft",
                table: "Plans");
        }
    }
}
