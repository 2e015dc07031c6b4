/** A file that was chosen, and that the browser does not give any more. */
export const UNREADABLE_FILE =
  'The file cannot be read: it was moved, changed or deleted since it was chosen, or it is not yours to read.';
