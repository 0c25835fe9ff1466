import { type ReactNode, useRef } from "react";
import { useHeadingFocus } from "./focus";
import css from "./page.module.css";

interface Props {
  /** Nothing where a page only says a word. */
  title?: string;
  /** In one sentence what the page is for, and what is chosen on it. */
  about?: ReactNode;
  /** What can be done here, at the right of the title. */
  actions?: ReactNode;
  children?: ReactNode;
}

/** The frame of every page and station: its title, what it is for, what can be done, and below it the work. */
export function Page({ title, about, actions, children }: Props) {
  const heading = useRef<HTMLHeadingElement>(null);
  useHeadingFocus(heading, title);
  return (
    <main className={css.page}>
      {(title || about) && (
        <div className={css.head}>
          {title && (
            <h1 ref={heading} tabIndex={-1}>
              {title}
            </h1>
          )}
          {about}
          {actions && <div className={css.actions}>{actions}</div>}
        </div>
      )}
      {children}
    </main>
  );
}
