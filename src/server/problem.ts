/** Every way in which a request to the server can go wrong, each with its HTTP status in `PROBLEM_STATUS`. */
export type ProblemCode = 'invalid-input' | 'not-found' | 'foreign-origin' | 'unreadable' | 'cancelled' | 'internal';

export const PROBLEM_STATUS: Record<ProblemCode, number> = {
  'invalid-input': 400,
  'not-found': 404,
  'foreign-origin': 403,
  unreadable: 422,
  cancelled: 409,
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
