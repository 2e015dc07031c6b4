/** What a note begins with that is saved as a comment (HAR 1.2): by it it is told from what a recorder says there. */
export const NOTE_BEGINS = 'Note: ';
