import { byUnknownParser } from '../addresses';
import type { Variable } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf } from '../plan';
import { powerMName, quotePowerM as quote } from '../quoting/power-m';
import { type Target, unsupported } from '../target';
import { envOf, identOf, type Value, writeValue } from '../value';
import { rendered, writeBody } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';

/** M keeps words for itself, and its own steps have these names. */
const OWN_WORDS = /^(each|section|shared|meta|otherwise|source|result|then|let|in)$/i;
const nameOf = (variable: Variable): string => {
  const name = identOf(variable);
  return OWN_WORDS.test(name) ? `${name}Value` : name;
};
const value = (one: Value): string => writeValue(one, quote, nameOf, ' & ');

/** M's Web.Contents, for a query of a workbook or report. */
export const powerM = {
  id: 'power-m',
  label: 'Power Query M, Web.Contents',
  language: 'M',
  extension: 'pq',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUnknownParser,
      repeats: false,
      unicode: false,
      givesUp: { afterS: 100, on: 'whole' },
      payloadWithGet: false,
      parts: false,
      refuses: (name) =>
        /^(host|connection|content-length|accept-encoding|expect)$/.test(name) ? 'Web.Contents computes it' : undefined,
      method: (method) =>
        method === 'GET' || method === 'POST'
          ? undefined
          : {
              method: draft.payload.type === 'none' ? 'GET' : 'POST',
              why: `Web.Contents sends ${draft.payload.type === 'none' ? 'GET' : 'POST'}`,
            },
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    if (redirects === 'stop') plan.warnings.push(unsupported('Stopping at a redirect', 'Web.Contents follows it'));
    if (proxy !== undefined) plan.warnings.push(unsupported('A proxy', 'that of the system is used'));
    if (ignoresCertificate) plan.warnings.push(unsupported('Taking any certificate', 'it has to be a valid one'));
    for (const variable of plan.variables.filter(({ isSecret }) => isSecret))
      plan.warnings.push(`${envOf(variable)} is a parameter of the workbook: make one of this name.`);
    if (plan.headers.some(({ name }) => /^(authorization|cookie)$/i.test(name)))
      plan.warnings.push(
        'Choose anonymous access when you are asked how to connect: the credentials are in the headers.',
      );
    const entries = plan.headers.map((header) => `${powerMName(header.name)} = ${value(header.value)}`);
    const comments = leftOutComments(plan, '//', quote, '                ');
    const members = [
      entries.length + comments.length === 0
        ? []
        : [
            'Headers = [',
            ...entries.map((entry, at) => `    ${entry}${at === entries.length - 1 ? '' : ','}`),
            ...comments.map((line) => line.trimStart()),
            ']',
          ],
      ...(plan.method === 'POST' ? [[`Content = ${bodyOf(plan) ?? 'Text.ToBinary("")'}`]] : []),
      ...(timeLimitS === undefined ? [] : [[`Timeout = #duration(0, 0, 0, ${timeLimitS})`]]),
    ].filter((lines) => lines.length > 0);
    const flat = members.flatMap((lines, at) =>
      lines.map((line, place) => (place === lines.length - 1 && at < members.length - 1 ? `${line},` : line)),
    );
    const steps = [
      ...plan.variables.map((variable) =>
        variable.isSecret
          ? `${nameOf(variable)} = ${envOf(variable)},`
          : `${nameOf(variable)} = ${quote(variable.value)},`,
      ),
      ...(flat.length === 0
        ? [`response = Web.Contents(${value(plan.address)}),`]
        : [
            'response = Web.Contents(',
            `    ${value(plan.address)},`,
            '    [',
            ...flat.map((line) => `        ${line}`),
            '    ]',
            '),',
          ]),
      `result = ${resultOf(plan)}`,
    ];
    if (prints === 'file') plan.warnings.push('M writes no file: the query gives the bytes of the response.');
    const text = ['let', ...steps.map((line) => `    ${line}`), 'in', '    result'];
    return rendered(plan, options.asFunction ? ['() =>', ...text.map((line) => `    ${line}`)] : text);
  },
} satisfies Target;

function resultOf(plan: Plan<FlatBody>): string {
  if (plan.options.prints === 'status') return 'Value.Metadata(response)[Response.Status]';
  if (isBinary(plan)) return 'response';
  return plan.answer === 'json' ? 'Json.Document(response)' : 'Text.FromBinary(response)';
}

const bodyOf = (plan: Plan<FlatBody>): string | undefined =>
  writeBody(plan, {
    text: (text) => `Text.ToBinary(${value(text)})`,
    bytes: (base64) => `Binary.FromText(${quote(base64)}, BinaryEncoding.Base64)`,
    file: (path) => `File.Contents(${quote(path)})`,
  });
