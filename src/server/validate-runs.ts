import Joi from 'joi';
import { TARGETS } from '#core/convert';
import type { Begun } from './db/runs';
import { ID, KEPT_DRAFT, LEAVE, LOOP } from './validate';

/** A run to be begun, with what was allowed. */
export const runOrder = Joi.object<Begun>({
  kept: Joi.object(KEPT_DRAFT).required(),
  leave: LEAVE,
  order: Joi.alternatives()
    .try(
      Joi.object({
        kind: Joi.string().valid('trim').required(),
        measure: Joi.string().valid('captured', 'now').required(),
        target: Joi.string().valid(...TARGETS.map(({ id }) => id)),
        mostSends: Joi.number().integer().min(3).max(1000).required(),
      }),
      Joi.object({
        kind: Joi.string().valid('series').required(),
        loop: LOOP.required(),
        atOnce: Joi.number().integer().min(1).max(4).required(),
      }),
      Joi.object({
        kind: Joi.string().valid('grow').required(),
        parameter: Joi.string().allow('').max(200).required(),
        list: Joi.string().max(2000).required(),
      }),
      Joi.object({
        kind: Joi.string().valid('watch').required(),
        until: Joi.string().max(2000).required(),
        // Nobody is asked more often than every second.
        everyMs: Joi.number().integer().min(1000).max(86_400_000).required(),
        mostSends: Joi.number().integer().min(1).max(10_000).required(),
      }),
    )
    .required(),
});

export const runParams = Joi.object<{ id: string; draft: string; run: string }>({ id: ID, draft: ID, run: ID });

export const runChange = Joi.object<{ does?: 'pause' | 'go-on'; deleted?: boolean }>({
  does: Joi.string().valid('pause', 'go-on'),
  deleted: Joi.boolean().strict(),
}).min(1);

export const stepsQuery = Joi.object<{ after?: number }>({ after: Joi.number().integer().min(0) });

export const rowsQuery = Joi.object<{ form: 'csv' | 'json' | 'lines' | 'repeated'; from?: string; once?: 'yes' }>({
  form: Joi.string().valid('csv', 'json', 'lines', 'repeated').default('json'),
  from: Joi.string().min(1).max(200),
  once: Joi.string().valid('yes'),
});
