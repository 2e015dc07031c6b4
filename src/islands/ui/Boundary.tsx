import { Component, type ComponentType, type ReactNode } from 'react';
import { takeHeldTyping } from '../state/actions';
import { isUnloaded, UNLOADED } from '../state/unloaded';
import { Button } from './Button';
import { Problem } from './Problem';

interface BoundaryProps {
  /** What is shown in it: something else is tried again. */
  readonly of?: unknown;
  readonly children: ReactNode;
}

interface BoundaryState {
  readonly fault: { readonly thrown: unknown } | undefined;
}

const BROKEN = {
  sentence: 'Trazado cannot show this: it met a fault of its own.',
  advice: 'Reload the page. If this comes back, other views and captures may still work; the shelf keeps what it has.',
};

/** Says what is wrong where a part of the page cannot be drawn, and leaves the rest of the page as it is. */
export class Boundary extends Component<BoundaryProps, BoundaryState> {
  override state: BoundaryState = { fault: undefined };

  static getDerivedStateFromError(thrown: unknown): BoundaryState {
    return { fault: { thrown } };
  }

  override componentDidUpdate(before: BoundaryProps): void {
    if (before.of !== this.props.of && this.state.fault !== undefined) this.setState({ fault: undefined });
  }

  override componentDidCatch(): void {
    // What was typed for a field that does not come is let go: keys are the page's again.
    takeHeldTyping();
  }

  override render(): ReactNode {
    const { fault } = this.state;
    if (fault === undefined) return this.props.children;
    return (
      <Problem problem={isUnloaded(fault.thrown) ? UNLOADED : BROKEN}>
        <Button onClick={() => location.reload()}>Reload the page</Button>
        <Button onClick={() => location.assign('/')}>To the shelf</Button>
      </Problem>
    );
  }
}

/** A whole page, which says what is wrong instead of going blank. */
export function bounded<Props extends object>(Page: ComponentType<Props>): ComponentType<Props> {
  return (props) => (
    <Boundary>
      <Page {...props} />
    </Boundary>
  );
}
