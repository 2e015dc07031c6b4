import { defineMiddleware } from 'astro:middleware';
import { problemResponse } from '#server/answer';
import { guardRequest } from '#server/guard';

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
  } catch (error) {
    return problemResponse(error);
  }
  const response = await next();
  for (const [name, value] of Object.entries(SAFE_HEADERS)) {
    if (!response.headers.has(name)) response.headers.set(name, value);
  }
  return response;
});
