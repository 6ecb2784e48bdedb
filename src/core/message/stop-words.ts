/** Words that end all texts when a message says nothing else. Common practice, no source; several languages. */
const STOP_WORDS = new Set([
  'stop',
  'stopall',
  'stop all',
  'unsubscribe',
  'cancel',
  'end',
  'quit',
  'optout',
  'opt out',
  'stopp',
  'arret',
  'arrêt',
  'alto',
  'baja',
  'parar',
  'no more texts',
]);

export const isStopWord = (text: string): boolean =>
  STOP_WORDS.has(
    text
      .normalize('NFC')
      .toLowerCase()
      .replace(/[.!"'’]+/g, '')
      .replace(/\s+/g, ' ')
      .trim(),
  );
