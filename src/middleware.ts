import { defineMiddleware } from 'astro:middleware';
import { problemResponse } from '#server/answer';
import { guardMethod, guardRequest, isApi } from '#server/guard';
import { ServerProblem } from '#server/problem';
import { hearOut } from '#server/read-json';

const SAFE_HEADERS = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'x-frame-options': 'SAMEORIGIN',
};

export const onRequest = defineMiddleware(async ({ request, url }, next) => {
  try {
    guardRequest(request, url.pathname);
    guardMethod(request, url.pathname);
  } catch (error) {
    await hearOut(request).catch(() => undefined);
    return problemResponse(error);
  }
  const found = await next();
  // Whoever asks an endpoint reads JSON, also where there is no such endpoint or it does not answer to the method.
  const isLost = found.status === 404 && isApi(url.pathname) && !/json/.test(found.headers.get('content-type') ?? '');
  const response = isLost ? problemResponse(nothingThere()) : found;
  for (const [name, value] of Object.entries(SAFE_HEADERS)) {
    if (!response.headers.has(name)) response.headers.set(name, value);
  }
  // One that broke off has nobody who waits for the answer.
  await hearOut(request).catch(() => undefined);
  return response;
});

const nothingThere = (): ServerProblem =>
  new ServerProblem('not-found', 'There is nothing at this URL.', 'Check the URL.');
