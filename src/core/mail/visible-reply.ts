import EmailReplyParser from 'email-reply-parser';

/** Characters of a mail that are looked at: no answer is longer, and the work stays small whatever is sent. */
const MOST = 10_000;

/** What somebody wrote in answer to a mail, without what they quoted below it and without their signature. */
export function visibleReply(text: string): string {
  // A run of empty lines costs the parser the square of its length.
  const short = text
    .slice(0, MOST)
    .replace(/\r\n?/g, '\n')
    .replace(/\n[ \t]*(?:\n[ \t]*){2,}/g, '\n\n')
    .trim();
  return new EmailReplyParser().read(short).getVisibleText().trim() || short;
}
