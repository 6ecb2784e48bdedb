import { type AnswerLine, answerLines } from './answer-tree.ts';

/** An answer that is JSON, line by line; none for any other, and for one that was cut off. */
export function readTree(body: string): AnswerLine[] {
  try {
    return answerLines(JSON.parse(body));
  } catch {
    return [];
  }
}
