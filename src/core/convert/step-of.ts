import { type Inflate, isSecretName, looksRandom, readBody } from '../content';
import { isRedirectStatus } from '../http';
import { type Exchange, findHeader, findLines, findResponse, findStatus, type NameValue } from '../model';
import { isRevision, type SequenceStep } from './carry';
import { draftFromExchange } from './draft';
import type { Preset } from './header-policy';
import { isGuardName } from './page-values';

/** A captured exchange as a step of a sequence. */
export function stepOf(exchange: Exchange, preset: Preset, inflate: Inflate): SequenceStep {
  const response = findResponse(exchange);
  const headers = response?.headers ?? [];
  const { kind, text } = readBody(response, inflate);
  return {
    index: exchange.index,
    draft: draftFromExchange(exchange, preset),
    ended: endOf(exchange),
    isRedirected: isRedirectStatus(findStatus(exchange)) && findHeader(headers, 'location') !== undefined,
    retries: 0,
    answer: {
      json: kind === 'json' ? text : undefined,
      page: /html/i.test(response?.mimeType ?? '') ? text : undefined,
      setCookies: findLines(headers, 'set-cookie'),
      headers: headers.filter((header) => mayBeNeeded(header) && findLines(headers, header.name).length === 1),
      location: findLines(headers, 'location')[0],
    },
  };
}

/** Whether a response's header gives what later requests may have to send: a token by its name or its look, or a revision. */
const mayBeNeeded = ({ name, value }: NameValue): boolean =>
  !/^(?:set-cookie|location)$/i.test(name) &&
  (isRevision(name) || isGuardName(name) || isSecretName(name) || looksRandom(value));

function endOf(exchange: Exchange): SequenceStep['ended'] {
  if (exchange.kind.value === 'preflight') return 'preflight';
  const status = findStatus(exchange);
  if (status === undefined) return 'unanswered';
  return status < 400 ? 'well' : status;
}
