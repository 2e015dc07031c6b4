import { tell } from '../state/notices';
import { copyText } from '../ui/copy';

/** A link that brings back this capture, view, filter, zoom and dossier. */
export async function copyLink(): Promise<void> {
  const copied = await copyText(location.href);
  tell(copied ? 'Copied the link to this view.' : 'Could not write to the clipboard.');
}
