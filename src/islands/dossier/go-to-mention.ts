import { decodeText } from '#core/content';
import { findMention } from '#core/find';
import { goTo } from '../state/address';
import { bodyAddress, fetchBytes, fetchDossier } from '../state/api';
import { writeHit } from '../state/hit';
import { tell } from '../state/notices';

/** Opens the body of an exchange at the place where it names an address; says so where it does not. */
export async function goToMention(captureId: string, parent: number, url: string): Promise<void> {
  const answer = await fetchDossier(captureId, parent);
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return;
  }
  const { body } = answer.value;
  const text = await textOf(captureId, parent, body.text, body.isCut, body.charsetType);
  const mention = text === undefined ? undefined : findMention(text, url);
  if (text === undefined || mention === undefined) {
    tell(`The body of #${parent} does not name this address.`, {
      detail:
        text === undefined ? 'The body is not text, or was not recorded.' : 'A script put it together, most likely.',
    });
    return;
  }
  const { offset, length } = mention;
  const hit = { index: parent, place: 'response body', path: undefined, offset, form: 'plain' } as const;
  const match = text.slice(offset, offset + length);
  goTo({ exchange: parent, lane: undefined, isOpen: true, hit: writeHit({ ...hit, match, before: '', after: '' }) });
}

async function textOf(
  captureId: string,
  index: number,
  text: string | undefined,
  isCut: boolean,
  charsetType: string | undefined,
): Promise<string | undefined> {
  if (!isCut || text === undefined) return text;
  const bytes = await fetchBytes(bodyAddress(captureId, index));
  return bytes.ok ? decodeText(bytes.value, charsetType) : text;
}
