/**
 * What stands above a signature: lines from the first that begins a signature on are left out. A signature begins with dashes (RFC 3676 §4.3 has
 * "-- "), with "sent from my …", with a closing formula, or is a line of names.
 */
function aboveSignature(text: string): string {
  const lines = text.split(/\r\n|\r|\n|\u2028|\u2029/);
  const first = lines.findIndex((line) => line.trim() !== '');
  const end = lines.findIndex((line, i) => i > first && SIGNATURE.some((pattern) => pattern.test(line.trim())));
  return (end < 0 ? lines : lines.slice(0, end)).join('\n');
}

/** Closing formulas and the lines phones add: common practice, from memory. */
const SIGNATURE = [
  /^[-–—_*~]{2,}/u,
  /^[-–—]\s*\p{L}/u,
  /^(sent from|get outlook|von meinem|gesendet von|envoyé de|enviado desde|inviato da|enviado do|verzonden vanaf|verstuurd vanaf)\b/iu,
  /^(kind |best |warm )?(regards|wishes)\b/iu,
  /^(cheers|thanks|thank you|yours|mfg|mit freundlichen grüßen|viele grüße|lg|cordialement|bien à vous|saludos|cordiali saluti|saluti|atenciosamente|abraços|groet(en|jes)?|met vriendelijke groet)\b/iu,
  // A line of names: every word of it with a capital, as nobody writes a sentence.
  /^\p{Lu}[\p{L}.'’-]*(\s+\p{Lu}[\p{L}.'’-]*){0,3}$/u,
];

/**
 * A message as plain words with one space between, for comparing it with lists: compatibility forms made plain (NFKC: full-width letters), small
 * letters, no marks that cannot be seen, no punctuation, nothing of a signature. `joined` also closes up what punctuation had parted: "opt-out" and "s.t.o.p".
 */
export function normalWords(text: string): { apart: string; joined: string } {
  const plain = aboveSignature(text.normalize('NFKC'))
    .toLowerCase()
    .replace(/\p{Cf}/gu, '');
  const words = (punctuation: string) =>
    plain
      .replace(/[\p{P}\p{S}]+/gu, punctuation)
      .replace(/\s+/gu, ' ')
      .trim();
  return { apart: words(' '), joined: words('') };
}
