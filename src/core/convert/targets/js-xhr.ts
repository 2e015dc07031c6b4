import { DEFAULT_OPTIONS } from '../options';
import { planOf } from '../plan';
import { quoteJavaScript as quote } from '../quoting/javascript';
import { type Target, unsupported } from '../target';
import { rendered } from '../writing/finish';
import { callsOfHeaders, jsBody, jsFunction, jsValue, jsVariables } from '../writing/js';
import { limitMs } from '../writing/time-limit';
import { PAGE_ABILITIES, pageHeaders } from './js-fetch';

/** XMLHttpRequest, to be run in a page. */
export const jsXhr = {
  id: 'js-xhr',
  label: 'XMLHttpRequest, in a page',
  language: 'JavaScript',
  extension: 'js',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, PAGE_ABILITIES);
    const { timeLimitS, redirects, prints } = plan.options;
    const { shown, referer, sendsCookies } = pageHeaders(plan, draft);
    if (redirects === 'stop')
      plan.warnings.push(unsupported('Not following redirects', 'the browser follows them by itself'));
    if (referer !== undefined)
      plan.warnings.push(unsupported('The header Referer', 'the browser sends the address of the page'));
    const body = jsBody(plan.body, 'browser', '');
    const isBinary = plan.answer === 'binary' || prints === 'file';
    const answer =
      prints === 'status'
        ? 'console.log(request.status, request.statusText);'
        : isBinary
          ? 'console.log(request.response);'
          : plan.answer === 'json'
            ? 'console.log(JSON.parse(request.responseText));'
            : 'console.log(request.responseText);';
    return rendered(
      plan,
      jsFunction(plan, [
        ...jsVariables(plan.variables, 'browser'),
        'const request = new XMLHttpRequest();',
        `request.open(${quote(plan.method)}, ${jsValue(plan.address)});`,
        ...callsOfHeaders(shown.headers, 'request.setRequestHeader'),
        ...(sendsCookies ? ['request.withCredentials = true;'] : []),
        ...(timeLimitS === undefined ? [] : [`request.timeout = ${limitMs(timeLimitS)};`]),
        ...(isBinary ? [`request.responseType = 'blob';`] : []),
        'request.onload = () => {',
        `  ${answer}`,
        '};',
        `request.onerror = () => console.error('No response.');`,
        ...(body?.lines ?? []),
        ...(body?.expression.includes('\n') === true
          ? [`const payload = ${body.expression};`, 'request.send(payload);']
          : [`request.send(${body?.expression ?? ''});`]),
      ]),
    );
  },
} satisfies Target;
