import Joi from 'joi';
import { type Mark, type MarkChange, readMarkKey } from '#core/marks';
import { KINDS } from '#core/model';
import { type HandOffChoice, OwnWordError, readOwnWord, SECRET_KINDS } from '#core/redact';
import { REPORT_FORMATS, REPORT_PARTS, type ReportFormat, type ReportPart } from '#core/report';
import type { HandOffOrder } from '#core/wire';

// What is checked of orders for what leaves.

/** Values that were switched may be long, as tokens are. */
export const HAND_OFF_LIMIT_BYTES = 20 * 1024 * 1024;

const VALUES = Joi.array().items(Joi.string().min(1).max(200_000)).max(5000).required();
const BODY_KINDS = Joi.array()
  .items(Joi.string().valid(...KINDS))
  .max(KINDS.length)
  .required();

/** A word, or an expression that can be read. */
const WORD = Joi.string()
  .max(2000)
  .custom((text: string, { message }) => {
    try {
      readOwnWord(text);
      return text;
    } catch (error) {
      if (!(error instanceof OwnWordError)) throw error;
      return message({ custom: error.message });
    }
  });

const CHOICE = {
  kinds: Joi.array()
    .items(Joi.string().valid(...SECRET_KINDS))
    .max(SECRET_KINDS.length)
    .required(),
  words: Joi.array().items(WORD).max(1000).required(),
  pointed: VALUES,
  on: VALUES,
  off: VALUES,
  withoutBodies: BODY_KINDS,
  blank: BODY_KINDS,
} satisfies Record<keyof HandOffChoice, Joi.Schema>;

export const handOffChoice = Joi.object<HandOffChoice>(CHOICE);

export const handOffOrder = Joi.object<HandOffOrder>({
  choice: Joi.object(CHOICE).required(),
  places: Joi.array().items(Joi.number().integer().min(0)).min(1).max(1_000_000),
});

/** A report of a page counted from 1, compared with another capture or not. */
export const reportOrder = Joi.object<{
  choice: HandOffChoice;
  page?: number;
  comparedWith?: string;
  parts: ReportPart[];
  format: ReportFormat;
  notes: string[];
}>({
  choice: Joi.object(CHOICE).required(),
  page: Joi.number().integer().min(1),
  comparedWith: Joi.string().max(200),
  parts: Joi.array()
    .items(Joi.string().valid(...REPORT_PARTS))
    .max(REPORT_PARTS.length)
    .required(),
  format: Joi.string()
    .valid(...REPORT_FORMATS)
    .required(),
  notes: Joi.array().items(Joi.string().max(20_000)).max(50).required(),
});

/** What somebody marks or notes, the other staying as it is. */
export const markOrder = Joi.object<Pick<Mark, 'target'> & MarkChange>({
  target: Joi.string()
    .max(20_000)
    .custom((text: string, { error }) => (readMarkKey(text) === undefined ? error('any.invalid') : text))
    .required(),
  isMarked: Joi.boolean().strict(),
  note: Joi.string().trim().allow('').max(10_000),
}).or('isMarked', 'note');
