using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace NeatCrate.Store.Migrations
{
    /// <inheritdoc />
    public partial class NotedIdentities : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "IsSilent",
                table: "Identities",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "Origin",
                table: "Identities",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Samples",
                table: "Identities",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "TimeReference",
                table: "Identities",
                type: "INTEGER",
                nullable: true);

            migrationBuilder.CreateIndex(
                name: "IX_Identities_Samples",
                table: "Identities",
                column: "Samples");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "IX_Identities_Samples",
                table: "Identities");

            migrationBuilder.DropColumn(
                name: "IsSilent",
                table: "Identities");

            migrationBuilder.DropColumn(
                name: "Origin",
                table: "Identities");

            migrationBuilder.DropColumn(
                name: "Samples",
                table: "Identities");

            migrationBuilder.DropColumn(
                name: "TimeReference",
                table: "Identities");
        }
    }
}
