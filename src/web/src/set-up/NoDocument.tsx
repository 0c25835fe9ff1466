import { endingOf, useSayDocumentKind } from "../api/documentKinds";
import { RowMenu } from "../frame/RowMenu";
import { useTell } from "../frame/Tell";

/** Says of a document of another program that its kind is none. */
export function NoDocument({ path }: { path: string }) {
  const say = useSayDocumentKind();
  const tell = useTell();
  const ending = endingOf(path);
  if (ending === null) return <span />;
  return (
    <RowMenu
      of={path}
      row="li"
      actions={[
        {
          label: "This is no document",
          act: () =>
            say.mutate(
              { ending, isDocument: false },
              {
                onError: (e) => tell.error(e.message),
                onSuccess: () => tell.success(`Files ending in ${ending} are no documents. Settings takes that back.`),
              },
            ),
          sure: {
            question: `Are files ending in “${ending}” no documents?`,
            means:
              "What they name counts for nothing then, in any session: files that only they use are called unused. Settings takes it back.",
            yes: "They are none",
          },
        },
      ]}
    />
  );
}
