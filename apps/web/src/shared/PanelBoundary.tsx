import { Button } from '@mantine/core';
import { Component, type ErrorInfo, type ReactNode } from 'react';
import { Notice } from './Notice.tsx';

type Props = {
  /** What can't be shown then, as in “the inspector”. */
  readonly name: string;
  /** When this changes, it is tried again by itself. */
  readonly resetKey?: unknown;
  readonly children: ReactNode;
};
type State = { readonly error: Error | null; readonly at: unknown };

/** Keeps a fault in one panel from taking the others, and what was typed in them, away. */
export class PanelBoundary extends Component<Props, State> {
  override state: State = { error: null, at: this.props.resetKey };

  static getDerivedStateFromError(error: unknown): Partial<State> {
    return { error: error instanceof Error ? error : new Error(String(error)) };
  }

  static getDerivedStateFromProps({ resetKey }: Props, { at }: State): Partial<State> | null {
    return at === resetKey ? null : { error: null, at: resetKey };
  }

  override componentDidCatch(error: Error, info: ErrorInfo): void {
    console.error(error, info.componentStack);
  }

  override render(): ReactNode {
    if (!this.state.error) return this.props.children;
    return (
      <Notice tone="fault" title={`${this.props.name} couldn’t be drawn`}>
        {this.state.error.message} The rest of the page works on.{' '}
        <Button variant="subtle" size="compact-sm" onClick={() => this.setState({ error: null })}>
          Try again
        </Button>
      </Notice>
    );
  }
}
