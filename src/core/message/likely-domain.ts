/** Mail domains that many people have. Common practice, no source. */
const COMMON = [
  'gmail.com',
  'googlemail.com',
  'hotmail.com',
  'hotmail.co.uk',
  'outlook.com',
  'yahoo.com',
  'yahoo.co.uk',
  'icloud.com',
  'live.com',
  'live.co.uk',
  'aol.com',
  'msn.com',
  'btinternet.com',
  'gmx.de',
  'gmx.net',
  'web.de',
  'orange.fr',
  'proton.me',
];
const KNOWN = new Set(COMMON);

/** Whether two words differ by one letter: put in, left out, another one, or two neighbours exchanged. */
function oneOff(a: string, b: string): boolean {
  if (a === b || Math.abs(a.length - b.length) > 1) return false;
  let i = 0;
  while (i < a.length && a[i] === b[i]) i++;
  const [restA, restB] = [a.slice(i), b.slice(i)];
  return (
    restA.slice(1) === restB ||
    restB.slice(1) === restA ||
    restA.slice(1) === restB.slice(1) ||
    (restA[0] === restB[1] && restA[1] === restB[0] && restA.slice(2) === restB.slice(2))
  );
}

/** The common mail domain that was probably meant, or null: "gmial.com" is most likely gmail.com. */
export function likelyDomain(domain: string): string | null {
  const typed = domain.toLowerCase();
  if (KNOWN.has(typed)) return null;
  return COMMON.find((one) => oneOff(typed, one)) ?? null;
}
