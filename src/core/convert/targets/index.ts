import type { Target, TargetId } from '../target';
import { curlSh } from './curl-sh';

/** Every target, in display order. To add one: its id in target.ts, its file here, its line in this list. */
const BY_ID = { 'curl-sh': curlSh } satisfies Record<TargetId, Target>;

export const TARGETS: readonly Target[] = Object.values(BY_ID);

/** The target of an id as somebody typed it; undefined where there is none. */
export const findTarget = (id: string): Target | undefined => TARGETS.find((target) => target.id === id);
