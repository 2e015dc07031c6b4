import {
  type AnySQLiteColumn,
  blob,
  index,
  integer,
  primaryKey,
  real,
  sqliteTable,
  text,
} from 'drizzle-orm/sqlite-core';

/** One kept capture. `sha256` is of the file's bytes as they came, so that the same file is recognised. */
export const captures = sqliteTable(
  'captures',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    sha256: text('sha256').notNull(),
    fileBytes: integer('file_bytes').notNull(),
    importedAt: integer('imported_at').notNull(),
    /** When it was deleted; it can be brought back until it is purged. */
    deletedAt: integer('deleted_at'),
    /** While it comes in, the process that reads it; till then it counts as deleted, and is no capture if that process dies. */
    arrivingFor: integer('arriving_for'),
    recordedAt: real('recorded_at'),
    utcOffsetMinutes: integer('utc_offset_minutes'),
    recorder: text('recorder'),
    browser: text('browser'),
    /** What its owner wrote about it. */
    note: text('note').notNull().default(''),
    /** HarOutline as JSON: what encloses the lists, for saving the file again. */
    outline: text('outline').notNull(),
    /** How far its reading came, as JSON. */
    completeness: text('completeness').notNull(),
    /** What was sent of one draft is a capture too, beside the shelf: this names the capture that the draft is of. */
    trialsOf: text('trials_of').references((): AnySQLiteColumn => captures.id, { onDelete: 'cascade' }),
  },
  (table) => [index('captures_sha256').on(table.sha256), index('captures_trials_of').on(table.trialsOf)],
);

const captureId = () =>
  text('capture_id')
    .notNull()
    .references(() => captures.id, { onDelete: 'cascade' });

export const pages = sqliteTable(
  'pages',
  {
    captureId: captureId(),
    place: integer('place').notNull(),
    /** The page as JSON, as it was read. */
    raw: text('raw').notNull(),
  },
  (table) => [primaryKey({ columns: [table.captureId, table.place] })],
);

/** Bodies by the SHA-256 of their bytes; the same bytes are kept once, whoever has them. */
export const bodies = sqliteTable('bodies', {
  sha256: text('sha256').primaryKey(),
  bytes: blob('bytes', { mode: 'buffer' }).notNull(),
});

/** Entries as JSON, each without its response body, which is in `bodies`. */
export const entries = sqliteTable(
  'entries',
  {
    captureId: captureId(),
    place: integer('place').notNull(),
    raw: text('raw').notNull(),
    bodySha256: text('body_sha256').references(() => bodies.sha256),
    /** How the recorded characters became the body's bytes, and become characters again. */
    bodyForm: text('body_form', { enum: ['utf8', 'utf16', 'base64'] }),
  },
  (table) => [primaryKey({ columns: [table.captureId, table.place] }), index('entries_body').on(table.bodySha256)],
);

/** What cannot stand in an entry, told without reading it: see core/find/signature. None where all must be read. */
export const signatures = sqliteTable(
  'signatures',
  {
    captureId: captureId(),
    place: integer('place').notNull(),
    bits: blob('bits', { mode: 'buffer' }),
  },
  (table) => [primaryKey({ columns: [table.captureId, table.place] })],
);

/** What the user set, by name, as JSON. */
export const settings = sqliteTable('settings', {
  name: text('name').primaryKey(),
  value: text('value').notNull(),
});

/** The rows of the analysis by columns, packed in blocks: see core/wire/columns. A capture's list is read whole, mostly. */
export const rowBlocks = sqliteTable(
  'row_blocks',
  {
    captureId: captureId(),
    /** The place of its first row. */
    first: integer('first').notNull(),
    count: integer('count').notNull(),
    bytes: blob('bytes', { mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.captureId, table.first] })],
);

/** What was computed of a whole capture, with the version of the computation: a newer one computes it again. */
export const analyses = sqliteTable('analyses', {
  captureId: text('capture_id')
    .primaryKey()
    .references(() => captures.id, { onDelete: 'cascade' }),
  version: integer('version').notNull(),
  /** CaptureOverview as JSON. */
  overview: text('overview').notNull(),
});

/** What the rules found in a capture, with the version of the rules. A capture without is still to be diagnosed. */
export const findings = sqliteTable('findings', {
  captureId: text('capture_id')
    .primaryKey()
    .references(() => captures.id, { onDelete: 'cascade' }),
  version: integer('version').notNull(),
  /** Finding[] as JSON. */
  findings: text('findings').notNull(),
  /** Why a diagnosis broke off; it is not tried again before the rules change. */
  problem: text('problem'),
});

/** Drafts, each kept with its capture. */
export const drafts = sqliteTable(
  'drafts',
  {
    id: text('id').primaryKey(),
    captureId: captureId(),
    /** PackedKeptDraft as JSON, or OldKeptDraft where it has not been changed since. */
    draft: text('draft').notNull(),
    /** In the order in which they were begun. */
    begunAt: integer('begun_at').notNull(),
  },
  (table) => [index('drafts_capture').on(table.captureId)],
);

/** The variables that the drafts of a capture share. */
export const variables = sqliteTable('variables', {
  captureId: text('capture_id')
    .primaryKey()
    .references(() => captures.id, { onDelete: 'cascade' }),
  /** SharedVariable[] as JSON. */
  variables: text('variables').notNull(),
});

/** What is known of each trial beside its exchange, which is in the capture that has the draft's id, at the same place. */
export const trials = sqliteTable(
  'trials',
  {
    captureId: captureId(),
    place: integer('place').notNull(),
    sentAt: integer('sent_at').notNull(),
    /** The sheet that was sent, as JSON. */
    sheet: text('sheet').notNull(),
    /** What was sent, hashed: trials of the same tell what changes by itself. */
    wireHash: text('wire_hash').notNull(),
    /** TrialNotes as JSON: what it came to, and what was changed in it. */
    notes: text('notes').notNull(),
    note: text('note').notNull().default(''),
    deletedAt: integer('deleted_at'),
  },
  (table) => [primaryKey({ columns: [table.captureId, table.place] })],
);

/** What ran, or runs, as a server that answers like a capture; what it was asked is a capture off the shelf under its id. */
export const rehearsals = sqliteTable(
  'rehearsals',
  {
    id: text('id').primaryKey(),
    captureId: captureId(),
    /** RehearsalOrder as JSON. */
    order: text('order').notNull(),
    /** "running" or "stopped". */
    status: text('status').notNull(),
    startedAt: integer('started_at').notNull(),
    /** The sums of what it was asked, also of what is not kept. */
    asked: integer('asked').notNull().default(0),
    missed: integer('missed').notNull().default(0),
    notKept: integer('not_kept').notNull().default(0),
    problem: text('problem'),
    deletedAt: integer('deleted_at'),
  },
  (table) => [index('rehearsals_capture').on(table.captureId)],
);

/** The changed responses of a capture, by names, as JSON: ResponseVariant[]. */
export const variants = sqliteTable('variants', {
  captureId: captureId().primaryKey(),
  value: text('value').notNull(),
});

/** What sends a draft many times. Its requests are a capture of their own, under its id and off the shelf, as trials are. */
export const runs = sqliteTable(
  'runs',
  {
    id: text('id').primaryKey(),
    captureId: captureId(),
    draftId: text('draft_id').notNull(),
    /** RunBegin as JSON, and what was allowed: the draft as it was when the run was begun. */
    begin: text('begin').notNull(),
    /** "running", "paused" or "ended". */
    status: text('status').notNull(),
    sentence: text('sentence').notNull(),
    /** RunResult as JSON. */
    result: text('result').notNull(),
    startedAt: integer('started_at').notNull(),
    endedAt: integer('ended_at'),
    deletedAt: integer('deleted_at'),
  },
  (table) => [index('runs_capture').on(table.captureId)],
);

/** Findings that somebody dismissed, each with the reason given. */
export const dismissals = sqliteTable(
  'dismissals',
  {
    captureId: captureId(),
    /** The finding's rule and evidence. */
    key: text('key').notNull(),
    reason: text('reason').notNull(),
  },
  (table) => [primaryKey({ columns: [table.captureId, table.key] })],
);

/** What somebody marked or noted in a capture: an exchange, a finding, a leg of a route, or a page. */
export const marks = sqliteTable(
  'marks',
  {
    captureId: captureId(),
    /** MarkTarget as core/marks writes it. */
    target: text('target').notNull(),
    isMarked: integer('is_marked', { mode: 'boolean' }).notNull(),
    note: text('note').notNull(),
  },
  (table) => [primaryKey({ columns: [table.captureId, table.target] })],
);

/** What was chosen to leave of a capture, and to be inked out in it, when its hand-off was looked at last. */
export const handOffs = sqliteTable('hand_offs', {
  captureId: text('capture_id')
    .primaryKey()
    .references(() => captures.id, { onDelete: 'cascade' }),
  /** HandOffChoice as JSON. */
  choice: text('choice').notNull(),
});

/** What somebody corrected in the matching of two captures: exchanges that are the same, or are not. */
export const corrections = sqliteTable(
  'corrections',
  {
    captureA: text('capture_a')
      .notNull()
      .references(() => captures.id, { onDelete: 'cascade' }),
    placeA: integer('place_a').notNull(),
    captureB: text('capture_b')
      .notNull()
      .references(() => captures.id, { onDelete: 'cascade' }),
    placeB: integer('place_b').notNull(),
    isSame: integer('is_same', { mode: 'boolean' }).notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.captureA, table.placeA, table.captureB, table.placeB] }),
    index('corrections_b').on(table.captureB),
  ],
);
