import { Alert, Button } from "antd";
import { Component, type ReactNode } from "react";
import { Page } from "./Page";

interface Props {
  /** Another value tries again: another page, another session. */
  place: string;
  children: ReactNode;
}

/**
 * Stands around pages, so that one that cannot be shown says so and leaves the rest in place. What was typed is kept by
 * the drafts, so that loading the page anew loses nothing.
 */
export class ErrorBoundary extends Component<Props, { error: Error | null; place: string }> {
  override state = { error: null as Error | null, place: this.props.place };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  static getDerivedStateFromProps(props: Props, state: { error: Error | null; place: string }) {
    return props.place === state.place ? null : { error: null, place: props.place };
  }

  override render() {
    if (!this.state.error) return this.props.children;
    return (
      <Page>
        <Alert
          type="error"
          title="This page could not be shown."
          description={
            <>
              <p>Neat Crate may have ended, or been brought up to date. What you typed is kept.</p>
              <p className="mono">{this.state.error.message}</p>
            </>
          }
          action={<Button onClick={() => window.location.reload()}>Load the page again</Button>}
        />
      </Page>
    );
  }
}
