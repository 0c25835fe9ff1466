/** Something that is rarely done with what stands in a row. */
export interface RareAction {
  label: string;
  act: () => void;
  disabled?: boolean;
  /** What is asked before it is done, where it cannot be taken back. */
  sure?: { question: string; means: string; yes: string };
}
