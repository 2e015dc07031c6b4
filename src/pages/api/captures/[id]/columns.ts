import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { readNamedColumns } from '#server/named-columns';
import { getTrazado } from '#server/trazado';
import { columnQuery, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params, url }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { name } = validate(columnQuery, { name: url.searchParams.getAll('name') });
    return json(request, await readNamedColumns(getTrazado().connection, id, name));
  });
