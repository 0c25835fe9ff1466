/** What was noticed about a session and stands in no row. */
export function Remarks({ remarks }: { remarks: readonly string[] }) {
  return remarks.map((remark) => (
    <p className="warning" key={remark}>
      {remark}
    </p>
  ));
}
