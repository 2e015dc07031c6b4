import type { APIRoute } from 'astro';
import type Joi from 'joi';
import { answer, json } from '#server/answer';
import { findSetting, writeSetting } from '#server/db/settings';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { SETTINGS, settingParams, validate } from '#server/validate';

/** A setting that was never set is null. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { name } = validate(settingParams, params);
    return json(request, findSetting(getTrazado().connection, name) ?? null);
  });

export const PUT: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { name } = validate(settingParams, params);
    const value = await readJson<object>(request, SETTINGS[name] as Joi.ObjectSchema<object>);
    await getTrazado().write((connection) => writeSetting(connection, name, value));
    return json(request, value);
  });
