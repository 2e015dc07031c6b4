import { useStore } from '@nanostores/react';
import { LaterDialogs } from '../ui/LaterDialogs';
import { later } from '../ui/later';
import { $noting } from './marks-store';

const NoteDialog = later(() => import('./NoteDialog'));

/** Where a note is written, while one is. */
export function NewNote() {
  const noting = useStore($noting);
  return (
    <LaterDialogs of={noting}>
      {noting === undefined ? null : <NoteDialog key={noting.opening} noting={noting} />}
    </LaterDialogs>
  );
}
