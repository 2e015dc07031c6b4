import Joi from 'joi';
import { HEADER_ROLES, LOOP_KINDS, type LoopFields, VARIABLE_NAME } from '#core/convert';
import { isExtraColumn } from '#core/filter';
import { LAYOUT_IDS, type PackedKeptDraft, type SendWay, type VariablesChange } from '#core/sheet';
import type { ExchangeFrom, Measure, SendLeave } from '#core/wire';
import type { ComparedCaptures, Correction } from './db/corrections';
import { ServerProblem } from './problem';
import { handOffChoice } from './validate-hand-off';

/** Checks what came from outside and gives it its type; a ServerProblem names the first member that is wrong. */
export function validate<T>(schema: Joi.ObjectSchema<T>, value: unknown): T {
  const result = schema.required().validate(value, { abortEarly: true, stripUnknown: true });
  if (result.error === undefined) return result.value as T;
  const [first] = result.error.details;
  throw new ServerProblem('invalid-input', sentenceOf(first), 'Correct the request and send it again.');
}

/** What is wrong, in our own words: those of the checking package are meant for programmers. */
function sentenceOf(detail: Joi.ValidationErrorItem | undefined): string {
  const { path = [], type = '', context } = detail ?? {};
  const member = path.join('.');
  const limit: unknown = context?.['limit'];
  if (type === 'custom') return detail?.message ?? '';
  if (member === '') return 'The request is not made of the members that belong here.';
  if (type === 'any.required') return `"${member}" is missing.`;
  if (type === 'any.only') return `"${member}" is none of ${[context?.['valids']].flat().join(', ')}.`;
  if (type.endsWith('.base')) return `"${member}" is not a ${type.split('.')[0]}.`;
  if (type.endsWith('.empty')) return `"${member}" is empty.`;
  if (type.endsWith('.max'))
    return `"${member}" is more than ${limit}${type.startsWith('string') ? ' characters' : ''}.`;
  if (type.endsWith('.min'))
    return `"${member}" is less than ${limit}${type.startsWith('string') ? ' characters' : ''}.`;
  return `"${member}" has a value that is not allowed here.`;
}

/** The id of a capture as an address gives it: one that is none is that of no capture. */
const CAPTURE_ID = Joi.string().max(200).required();
export const ID = Joi.string().guid({ version: 'uuidv4' }).required();
/** Blanks, what terminals act on, and what turns text around. */
const UNNAMED = String.raw`(?:\s|[\u0000-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069])+`;
/** A name on one line, all of it seen. */
const NAME = Joi.string()
  .replace(new RegExp(`^${UNNAMED}|${UNNAMED}$`, 'g'), '')
  .replace(new RegExp(UNNAMED, 'g'), ' ')
  .min(1)
  .max(200);

export const captureParams = Joi.object<{ id: string }>({ id: CAPTURE_ID });

export const exchangeParams = Joi.object<{ id: string; place: number }>({
  id: CAPTURE_ID,
  place: Joi.number().integer().min(0).required(),
});

/** What a body is wanted as: its bytes, or a page's markup to be drawn in a sandbox. */
export const bodyQuery = Joi.object<{ as?: 'picture' }>({ as: Joi.string().valid('picture') });

const PLACE = Joi.number().integer().min(0).required();

/** An exchange of a capture, or of a draft's trials; or what was pasted. */
const EXCHANGE_FROM = Joi.alternatives(
  Joi.object({ capture: CAPTURE_ID, place: PLACE }),
  Joi.object({ pasted: Joi.string().min(1).max(10_000_000).required() }),
).required();

/** What is pasted may be a response with its body. */
export const PASTE_LIMIT_BYTES = 12_000_000;

export const compareOrder = Joi.object<{ here: ExchangeFrom; there: ExchangeFrom }>({
  here: EXCHANGE_FROM,
  there: EXCHANGE_FROM,
});

/** How long after this load the other one began, in s. */
export const loadQuery = Joi.object<{ after?: number }>({ after: Joi.number().positive().max(1e10) });

export const comparedCaptures = Joi.object<ComparedCaptures>({ a: CAPTURE_ID, b: CAPTURE_ID });

export const correctionOrder = Joi.object<Correction>({
  a: PLACE,
  b: PLACE,
  isSame: Joi.boolean().strict().allow(null).required(),
});

export const cookieQuery = Joi.object<{ from: number; name: string[] }>({
  from: PLACE,
  name: Joi.array().items(Joi.string().max(4096)).single().min(1).max(100).required(),
});

/** A finding by its key, with the reason for which it is dismissed; without one it is restored. */
export const dismissal = Joi.object<{ key: string; reason?: string | null }>({
  key: Joi.string().min(1).max(20_000).required(),
  reason: Joi.string().trim().min(1).max(500).allow(null),
});

export const pageQuery = Joi.object<{ page?: string }>({ page: Joi.string().max(4096) });

/** Without an import's id nobody follows how it goes. */
export const uploadQuery = Joi.object<{ name: string; importId?: string }>({
  name: NAME.required(),
  importId: ID.optional(),
});

export const captureChange = Joi.object<{ name?: string; note?: string; deleted?: boolean }>({
  name: NAME,
  note: Joi.string().trim().allow('').max(2000),
  deleted: Joi.boolean().strict(),
}).min(1);

/** Names of headers, cookies and next visits as filters write them. */
const COLUMN_NAME = Joi.string()
  .max(2000)
  .custom((name: string, { error }) => (isExtraColumn(name) ? name : error('any.invalid')));

export const columnQuery = Joi.object<{ name: string[] }>({
  name: Joi.array().items(COLUMN_NAME).single().min(1).max(20).required(),
});

export const draftParams = Joi.object<{ id: string; draft: string }>({ id: ID, draft: ID });

const LINE = Joi.string().allow('').max(200_000);
const PAYLOAD_TEXT = Joi.string().allow('').max(50_000_000);
const LOOP_TEXT = Joi.string().allow('').max(2000).required();
export const LOOP = Joi.object<LoopFields>({
  kind: Joi.string()
    .valid(...LOOP_KINDS.map(([kind]) => kind))
    .required(),
  parameter: LOOP_TEXT,
  from: LOOP_TEXT,
  to: LOOP_TEXT,
  step: LOOP_TEXT,
  // Absent in drafts that were kept before there were these.
  values: Joi.string().allow('').max(500_000),
  firstDay: LOOP_TEXT.optional(),
  lastDay: LOOP_TEXT.optional(),
  list: LOOP_TEXT,
  total: LOOP_TEXT,
  pages: LOOP_TEXT,
  shortEnds: LOOP_TEXT,
  next: LOOP_TEXT,
  cursor: LOOP_TEXT,
  rows: LOOP_TEXT,
  mostPages: LOOP_TEXT,
  at: LOOP_TEXT,
  until: LOOP_TEXT,
  status: LOOP_TEXT,
  pauseMs: LOOP_TEXT,
  mostTries: LOOP_TEXT,
  folder: LOOP_TEXT,
} satisfies Record<keyof LoopFields, Joi.Schema>);

const VARIABLE = {
  name: Joi.string().pattern(VARIABLE_NAME).max(200).required(),
  value: LINE.required(),
  isSecret: Joi.boolean().strict().required(),
};

const SHEET = Joi.object({
  text: Joi.string().allow('').max(60_000_000).required(),
  layout: Joi.string()
    .valid(...LAYOUT_IDS)
    .required(),
  attachments: Joi.array()
    .items(Joi.object({ key: LINE.required(), base64: PAYLOAD_TEXT.required() }))
    .max(10_000)
    .required(),
});

/** A host with a port or without, as it is typed: what is no place yet is kept, and refused where it would be sent to. */
const PLACE_ON_NETWORK = Joi.string().max(300);

export const KEPT_DRAFT = {
  id: ID,
  name: NAME.required(),
  exchange: Joi.number().integer().min(0),
  loop: LOOP,
  needed: Joi.array()
    .items(Joi.object({ key: LINE.required(), reason: LINE.required() }))
    .max(10_000),
  way: Joi.object<SendWay>({
    toHost: PLACE_ON_NETWORK,
    proxy: PLACE_ON_NETWORK,
    wantsHttp2: Joi.boolean().strict(),
    timeLimitS: Joi.number().min(0.1).max(600),
  } satisfies Record<keyof SendWay, Joi.Schema>),
  sheet: SHEET.required(),
  draft: Joi.object({
    headers: Joi.array()
      .items(
        Joi.object({
          name: LINE.required(),
          value: LINE.required(),
          role: Joi.string()
            .valid(...HEADER_ROLES)
            .required(),
          kept: Joi.boolean().required(),
          reason: LINE.required(),
        }),
      )
      .max(10_000)
      .required(),
    variables: Joi.array().items(Joi.object(VARIABLE)).max(1000).required(),
    wantsCompressed: Joi.boolean().required(),
    answer: Joi.string().valid('json', 'text', 'binary', 'none').required(),
    took: Joi.object({ waitMs: Joi.number().required(), wholeMs: Joi.number().required() }),
    notes: Joi.array().items(LINE).max(1000).required(),
  }).required(),
};

/** A draft as it is kept: all of its members, so that none that is not known comes in. */
export const keptDraft = Joi.object<PackedKeptDraft>(KEPT_DRAFT);

/** Changes to the variables that the drafts of a capture share, by their names. */
export const changedVariables = Joi.object<VariablesChange>({
  removed: Joi.array().items(VARIABLE.name.optional()).max(1000).required(),
  set: Joi.array()
    .items(
      Joi.object({
        ...VARIABLE,
        takenFrom: Joi.object({
          draft: ID,
          part: Joi.string().valid('json', 'header', 'cookie', 'text', 'parameter').required(),
          place: LINE.required(),
          as: Joi.string().valid('encoded', 'decoded'),
        }),
      }),
    )
    .max(1000)
    .unique('name')
    .required(),
});

export const LEAVE = Joi.object<SendLeave>({
  unsafe: Joi.boolean().strict(),
  private: Joi.boolean().strict(),
  certificateOf: Joi.string().max(300),
}).required();

/** A draft to be sent, with what was allowed. */
export const trialOrder = Joi.object<{ kept: PackedKeptDraft; leave: SendLeave }>({
  kept: Joi.object(KEPT_DRAFT).required(),
  leave: LEAVE,
});

/** A value that a request has, and the request. */
export const originOrder = Joi.object<{ before: number; value: string }>({
  before: PLACE,
  value: Joi.string().min(1).max(200_000).required(),
});

export const trialParams = Joi.object<{ id: string; draft: string; number: number }>({
  id: ID,
  draft: ID,
  number: Joi.number().integer().min(1).required(),
});

export const trialChange = Joi.object<{ note?: string; deleted?: boolean }>({
  note: Joi.string().trim().allow('').max(2000),
  deleted: Joi.boolean().strict(),
}).min(1);

/** What a trial is held against. */
export const heldOrder = Joi.object<{ kept: PackedKeptDraft; against: Measure }>({
  kept: Joi.object(KEPT_DRAFT).required(),
  against: Joi.alternatives(
    Joi.object({ type: Joi.string().valid('captured').required() }),
    Joi.object({ type: Joi.string().valid('trial', 'exchange').required(), number: PLACE }),
    Joi.object({ type: Joi.string().valid('pasted').required(), text: PAYLOAD_TEXT.required() }),
  ).required(),
});

/** The settings that there are, each with the shape of its value. */
export const SETTINGS = {
  filters: Joi.object({
    recent: Joi.array().items(Joi.string().max(4000)).max(30).required(),
    named: Joi.array()
      .items(Joi.object({ name: NAME.required(), text: Joi.string().max(4000).required() }))
      .max(200)
      .required(),
  }),
  handOffs: Joi.object({
    named: Joi.array()
      .items(Joi.object({ name: NAME.required(), choice: handOffChoice.required() }))
      .max(50)
      .required(),
  }),
  targets: Joi.object({
    favourites: Joi.array().items(Joi.string().max(40)).max(9).required(),
  }),
} as const;

export const settingParams = Joi.object<{ name: keyof typeof SETTINGS }>({
  name: Joi.string()
    .valid(...Object.keys(SETTINGS))
    .required(),
});

export const findQuery = Joi.object<{ text: string; regex: boolean; case: boolean; word: boolean }>({
  text: Joi.string().min(1).max(10_000).required(),
  regex: Joi.boolean().default(false),
  case: Joi.boolean().default(false),
  word: Joi.boolean().default(false),
});

export const placesQuery = Joi.object<{ places: number[] }>({
  places: Joi.array().items(Joi.number().integer().min(0)).single().min(1).max(200).required(),
});

/** A million numbers of exchanges. */
export const PLACES_LIMIT_BYTES = 10 * 1024 * 1024;

/** The exchanges whose bodies are wanted. */
export const bodiesOrder = Joi.object<{ places: number[] }>({
  places: Joi.array().items(Joi.number().integer().min(0)).min(1).max(1_000_000).required(),
});

/** Without places the whole capture. */
export const exportOrder = Joi.object<{ places?: number[] }>({
  places: Joi.array().items(Joi.number().integer().min(0)).max(1_000_000),
});

export const localFile = Joi.object<{ path: string }>({
  path: Joi.string()
    .min(1)
    .max(4096)
    .pattern(/^[^\0]*$/, 'a path without NUL')
    .required(),
});
