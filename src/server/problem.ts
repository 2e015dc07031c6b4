import type { StorageTrouble } from './db/trouble';

/** Every way in which a request to the server can go wrong, each with its HTTP status in `PROBLEM_STATUS`. */
export type ProblemCode =
  | 'invalid-input'
  | 'too-large'
  | 'not-found'
  | 'foreign-origin'
  | 'wrong-method'
  | 'sending-off'
  | 'wrong-token'
  | 'unreadable'
  | 'form'
  | 'not-proven'
  | 'not-ready'
  | 'cancelled'
  | 'storage-full'
  | 'storage-unusable'
  | 'internal';

export const PROBLEM_STATUS: Record<ProblemCode, number> = {
  'invalid-input': 400,
  'not-found': 404,
  'foreign-origin': 403,
  'sending-off': 403,
  'wrong-token': 401,
  'too-large': 413,
  'wrong-method': 405,
  unreadable: 422,
  form: 415,
  cancelled: 409,
  'not-proven': 409,
  'not-ready': 503,
  // RFC 4918 11.5, Insufficient Storage.
  'storage-full': 507,
  'storage-unusable': 503,
  internal: 500,
};

/** An error with one sentence that says what is wrong and one that says what to do about it. */
export class ServerProblem extends Error {
  readonly code: ProblemCode;
  readonly sentence: string;
  readonly advice: string;

  constructor(code: ProblemCode, sentence: string, advice: string) {
    super(`${sentence} ${advice}`);
    this.name = 'ServerProblem';
    this.code = code;
    this.sentence = sentence;
    this.advice = advice;
  }
}

/** The problem to answer with where the storage does not do what it should. */
export const storageProblem = ({ kind, sentence, advice }: StorageTrouble): ServerProblem =>
  new ServerProblem(kind === 'full' ? 'storage-full' : 'storage-unusable', sentence, advice);
