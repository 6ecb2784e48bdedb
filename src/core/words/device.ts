import Bowser from 'bowser';

/** Browser and system in words, by the User-Agent header: "Firefox on Windows", "An unknown device" when it tells nothing. */
export function deviceWords(userAgent: string): string {
  if (userAgent.trim() === '') return 'An unknown device';
  const { browser, os } = Bowser.parse(userAgent.slice(0, 1000));
  const words = [browser.name, os.name].filter(Boolean).join(' on ');
  return (words || userAgent.split(/[\s/]/)[0]!).slice(0, 100);
}
