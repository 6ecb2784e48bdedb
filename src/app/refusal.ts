import { TableProblem } from '../tables/table.ts';

/** Something a person asked for that cannot be done, in words that say what to do. */
export class Refusal extends Error {
  constructor(
    readonly status: 400 | 401 | 403 | 404 | 405 | 409 | 413 | 422 | 429 | 502,
    readonly code: string,
    message: string,
    readonly more: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

export const notHere = (what: string) =>
  new Refusal(404, 'not-here', `This ${what} is not here. It may have been removed.`);

/** Two people at the same thing: the later one is told, and what they wrote stays on their screen. */
export const changedMeanwhile = (what: string): Refusal =>
  new Refusal(
    409,
    'changed-meanwhile',
    `Somebody has changed this ${what} since you opened it. Nothing of yours was saved: open it anew in another tab, and compare.`,
  );

/** What an outside service was handed is no longer what stands here. */
export const changedOnItsWay = (): Refusal =>
  new Refusal(
    409,
    'changed',
    'It was changed while it was on its way to the network. Look at it, and send it once more.',
  );

/** What the constraints of the database say, in words. What is not listed is said in general. */
const CONSTRAINTS: Record<string, string> = {
  tag_name: 'There is a tag of this name already.',
  segment_name: 'There is a segment of this name already. Choose another name.',
  nurture_list_name: 'There is a list of this name already. Choose another name.',
  email_template_name: 'There is an email template of this name already. Choose another name.',
  chat_template_name: 'There is a chat template of this name already. Choose another name.',
  chat_form_name: 'There is a chat form of this name already. Choose another name.',
  canned_answer_name: 'There is an answer of this name already. Choose another name.',
  team_name: 'There is a team of this name already. Choose another name.',
  membership_one: 'They belong to this business already.',
  deal_open: 'This lead has another open deal in this pipeline. Close that one first.',
};

interface DatabaseError {
  code?: unknown;
  constraint?: unknown;
}

/** The refusal behind what the database does not let through (SQLSTATE, PostgreSQL 15 appendix A); null for real trouble. */
function refusedByDatabase({ code, constraint }: DatabaseError): Refusal | null {
  switch (code) {
    case '23505': // unique_violation
      return new Refusal(
        409,
        'same-there',
        CONSTRAINTS[String(constraint)] ??
          'There is one like this already; somebody may have made it a moment ago. Look again before you try once more.',
        // Which one: whoever is asked for help wants to know.
        { constraint: String(constraint) },
      );
    case '23503': // foreign_key_violation
      return new Refusal(
        409,
        'gone-meanwhile',
        'Something this has to do with has been removed meanwhile, or is still used elsewhere. Nothing was changed; look again.',
      );
    case '40001': // serialization_failure
    case '40P01': // deadlock_detected
      return new Refusal(
        409,
        'at-once',
        'Others are saving this at the same moment. Nothing was changed; save it once more.',
      );
    default:
      return null;
  }
}

/** The refusal behind an error; null for real trouble. */
export function refusalOf(error: unknown): Refusal | null {
  if (error instanceof Refusal) return error;
  if (error instanceof TableProblem) return new Refusal(422, error.code, error.message);
  return typeof error === 'object' && error !== null ? refusedByDatabase(error as DatabaseError) : null;
}
