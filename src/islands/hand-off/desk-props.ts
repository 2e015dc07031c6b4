import type { ReactNode } from 'react';
import type { HandOffChoice } from '#core/redact';
import type { ViewProps } from '../view-props';

/** What each kind of hand-off is given. */
export interface DeskProps extends ViewProps {
  /** What is chosen for all of them. */
  readonly head: ReactNode;
  readonly choice: HandOffChoice;
}
