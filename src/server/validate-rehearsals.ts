import Joi from 'joi';
import { type ChangedResponse, RESPONSE_FAILURES } from '#core/rehearse';
import type { RehearsalOrder, ResponseVariant } from '#core/wire';
import { ID } from './validate';

const PLACE = Joi.number().integer().min(0);
/** Bodies that somebody writes; a file is given by the command line. */
const BODY_CHARS = 5_000_000;

const CHANGES = Joi.array()
  .max(1000)
  .items(
    Joi.object<ChangedResponse>({
      exchange: PLACE.required(),
      status: Joi.number().integer().min(200).max(599),
      headers: Joi.array()
        .max(100)
        .items(
          Joi.object({
            name: Joi.string()
              .pattern(/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/)
              .max(200)
              .required(),
            value: Joi.string().allow('').max(20_000),
          }),
        ),
      body: Joi.string().allow('').max(BODY_CHARS),
      emptiesList: Joi.boolean().valid(true).strict(),
      delayMs: Joi.number().min(0).max(600_000),
      failure: Joi.string().valid(...RESPONSE_FAILURES),
    }),
  )
  .required();

export const rehearsalOrder = Joi.object<RehearsalOrder>({
  places: Joi.array().min(1).max(1_000_000).items(PLACE),
  time: Joi.number().min(0).max(100).required(),
  rewrites: Joi.boolean().strict().required(),
  forwards: Joi.boolean().strict().required(),
  isSecure: Joi.boolean().strict().required(),
  isExact: Joi.boolean().strict().required(),
  changes: CHANGES,
});

export const rehearsalParams = Joi.object<{ id: string; rehearsal: string }>({
  id: Joi.string().max(200).required(),
  rehearsal: ID,
});

export const rehearsalChange = Joi.object<{ does?: 'stop' | 'rewind'; deleted?: boolean }>({
  does: Joi.string().valid('stop', 'rewind'),
  deleted: Joi.boolean().strict(),
}).min(1);

export const askedQuery = Joi.object<{ after?: number }>({ after: Joi.number().integer().min(0) });

export const responseVariants = Joi.object<{ variants: ResponseVariant[] }>({
  variants: Joi.array()
    .max(100)
    .items(
      Joi.object<ResponseVariant>({
        id: ID,
        name: Joi.string().trim().min(1).max(200).required(),
        changes: CHANGES,
      }),
    )
    .required(),
});

/** A list of places of a large capture, and changed bodies. */
export const REHEARSAL_LIMIT_BYTES = 40_000_000;
