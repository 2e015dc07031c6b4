import { bytes } from './layouts/bytes';
import { fields } from './layouts/fields';
import { file } from './layouts/file';
import { json } from './layouts/json';
import { parts } from './layouts/parts';
import { plain } from './layouts/plain';
import { unrecorded } from './layouts/unrecorded';
import type { Layout, LayoutId } from './sheet';

/** In the order in which they are tried on a payload. */
const BY_ID: Record<LayoutId, Layout> = { json, fields, parts, bytes, file, unrecorded, plain };

export const LAYOUTS: readonly Layout[] = Object.values(BY_ID);
export const LAYOUT_IDS = Object.keys(BY_ID) as LayoutId[];
export const layoutOf = (id: LayoutId): Layout => BY_ID[id];
