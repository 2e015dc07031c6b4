import Joi from 'joi';
import { ServerProblem } from './problem';

/** Checks what came from outside and gives it its type; a ServerProblem names the first member that is wrong. */
export function validate<T>(schema: Joi.ObjectSchema<T>, value: unknown): T {
  const result = schema.validate(value, { abortEarly: true, stripUnknown: true });
  if (result.error === undefined) return result.value as T;
  throw new ServerProblem('invalid-input', `${result.error.message}.`, 'Correct the request and send it again.');
}

const ID = Joi.string().guid({ version: 'uuidv4' }).required();
const NAME = Joi.string().trim().min(1).max(200);

export const captureParams = Joi.object<{ id: string }>({ id: ID });

export const exchangeParams = Joi.object<{ id: string; place: number }>({
  id: ID,
  place: Joi.number().integer().min(0).required(),
});

export const uploadQuery = Joi.object<{ name: string; importId: string }>({ name: NAME.required(), importId: ID });

export const captureChange = Joi.object<{ name?: string; note?: string; deleted?: boolean }>({
  name: NAME,
  note: Joi.string().trim().allow('').max(2000),
  deleted: Joi.boolean(),
}).min(1);

export const localFile = Joi.object<{ path: string }>({ path: Joi.string().min(1).max(4096).required() });
