import type { Plan } from '../plan';

/** The headers that libcurl adds by itself and that are not to be sent: a name with nothing behind its colon takes one away. */
export function removedByName(plan: Plan, hasBody: boolean): string[] {
  const names = new Set(plan.headers.map(({ name }) => name.toLowerCase()));
  return [
    ...(names.has('accept') ? [] : ['Accept']),
    ...(hasBody && plan.body.type !== 'parts' && !names.has('content-type') ? ['Content-Type'] : []),
    ...(hasBody ? ['Expect'] : []),
  ];
}
