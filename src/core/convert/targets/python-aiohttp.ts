import { withoutEmptyQuery } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type PlanBody, planOf, sendsEmptyBody } from '../plan';
import { quotePython as quote } from '../quoting/python';
import type { Target } from '../target';
import { rendered } from '../writing/finish';
import { indentAll } from '../writing/indent';
import { pyBody, pyCall, pyHeaders, pyImports, pyPart, pyPartImports, pyValue, pyVariables } from '../writing/python';

/** aiohttp. */
export const pythonAiohttp = {
  id: 'python-aiohttp',
  label: 'Python, aiohttp',
  language: 'Python',
  extension: 'py',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: withoutEmptyQuery,
      repeats: true,
      unicode: true,
      givesUp: { afterS: 300, on: 'whole' },
      payloadWithGet: true,
      // Its forms are multipart only where they have files.
      parts: draft.payload.type === 'parts' && draft.payload.parts.some(({ fileName }) => fileName !== undefined),
      takesParts: (parts) =>
        parts.every(({ fileName, contentType }) => fileName === undefined || contentType !== undefined),
      method: (method) =>
        method === method.toUpperCase()
          ? undefined
          : { method: method.toUpperCase(), why: 'aiohttp writes it in capitals' },
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const headers = pyHeaders(plan, pyValue);
    const body = pyBody(plan);
    const form = plan.body.type === 'parts' ? formLines(plan.body) : undefined;
    const addsType =
      plan.contentType === undefined && form === undefined && (body !== undefined || sendsEmptyBody(plan.method));
    // The address goes out as it stands: yarl would decode what it holds to be needlessly encoded.
    const args = [
      quote(plan.method),
      'URL(url, encoded=True)',
      ...(headers.length > 0 ? ['headers=headers'] : []),
      ...(body === undefined ? [] : [`data=${body.expression}`]),
      ...(form === undefined ? [] : ['data=form']),
      ...(addsType ? ["skip_auto_headers=['Content-Type']"] : []),
      ...(timeLimitS === undefined ? [] : [`timeout=aiohttp.ClientTimeout(total=${timeLimitS})`]),
      ...(redirects === undefined ? [] : [`allow_redirects=${redirects === 'follow' ? 'True' : 'False'}`]),
      ...(proxy === undefined ? [] : [`proxy=${quote(proxy)}`]),
      ...(ignoresCertificate ? ['ssl=False'] : []),
    ];
    const check = 'response.raise_for_status()';
    const answer =
      prints === 'status'
        ? ['print(response.status, response.reason)']
        : prints === 'file' || plan.answer === 'binary'
          ? [check, "with open('response', 'wb') as file:", '    file.write(await response.read())']
          : [check, `print(await response.${plan.answer === 'json' ? 'json(content_type=None)' : 'text()'})`];
    const call = pyCall('session.request', args);
    const lines = [
      'async def send():',
      ...indentAll(
        [
          ...pyVariables(plan.variables),
          `url = ${pyValue(plan.address)}`,
          ...headers,
          ...(body?.lines ?? []),
          ...(form?.lines ?? []),
        ],
        '    ',
      ),
      '    async with aiohttp.ClientSession() as session:',
      ...indentAll([`async with ${call} as response:`], '        '),
      ...indentAll(answer, '            '),
      '',
      '',
      ...(options.asFunction ? ["if __name__ == '__main__':", '    asyncio.run(send())'] : ['asyncio.run(send())']),
    ];
    const imports = [...(body?.imports ?? []), ...(form?.imports ?? []), 'asyncio'];
    const head = pyImports(plan, imports, ['aiohttp']);
    return rendered(plan, [...head.slice(0, -1), 'from yarl import URL', '', '', ...lines]);
  },
} satisfies Target;

function formLines({ parts }: Extract<PlanBody, { readonly type: 'parts' }>): {
  readonly lines: string[];
  readonly imports: string[];
} {
  // Names are left as they are, as browsers do.
  const lines = ['form = aiohttp.FormData(quote_fields=False)'];
  for (const part of parts) {
    const { name, fileName, contentType } = part;
    const content = pyPart(part, fileName === undefined ? quote : (text) => `${quote(text)}.encode()`);
    const escaped = (value: string): string =>
      quote(value.replace(/["\r\n]/g, (character) => encodeURIComponent(character)));
    lines.push(
      pyCall('form.add_field', [
        escaped(name),
        content,
        ...(fileName === undefined ? [] : [`filename=${escaped(fileName)}`]),
        ...(contentType === undefined ? [] : [`content_type=${quote(contentType)}`]),
      ]),
    );
  }
  return { lines, imports: pyPartImports(parts) };
}
