import { bearer, renew } from './session.js';
export const API = 'https://api.cumbrera.example';

export async function call(path, options = {}) {
  const send = () =>
    fetch(API + path, { ...options, headers: { 'x-cumbrera-client': 'web 41ab', ...options.headers, ...bearer() } });
  const answer = await send();
  if (answer.status !== 401) return answer;
  await renew();
  return send();
}

export const getJson = async (path) => (await call(path)).json();

export async function ask(operationName, query, variables) {
  const answer = await call('/graphql', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ operationName, query, variables }),
  });
  return answer.json();
}
