import { normalWords } from './normal-words.ts';

/**
 * Turns of phrase by which people ask to be left alone in a longer message, by language. Common practice, from memory. They are meant to be found
 * too often rather than too seldom: a person reads what was found.
 */
const REFUSALS: readonly RegExp[] = [
  // English
  /\b(stop|quit|cease) (\w+ )?(texting|messaging|sending|writing|emailing|contacting|calling|spamming|bothering|harassing|these|this|the texts|the messages|the emails|your|all|them)\b/,
  /\b(don ?t|do not|dont|never|no longer|please not) (\w+ )?(text|message|write|email|contact|call|spam|bother)( to)? (me|us|this|again|anymore|any more|my)\b/,
  /\b(remove|delete|unsubscribe|take|opt) (me|my number|my name|my email|this number|us) ?(from|off|out|please|now|$)/,
  /\b(unsubscribe|opt out|opt me out|revoke)\b/,
  /\b(leave me alone|lose my number|off your list|off this list|no more (texts|messages|emails|of this|from you))\b/,
  /\b(want|wish|like|need) (you )?to (stop|unsubscribe|opt out|be removed|cancel)\b/,
  /\b(want|need) no more\b/,
  /\bnot interested\b/,
  /\bwrong (number|person)\b/,
  /\b(report|reporting) (you|this)\b.*\bspam\b|\bspam\b.*\b(report|stop)\b/,
  // German
  /\bkeine? (weiteren? )?(sms|nachrichten|mails|e mails|emails|werbung|texte|anrufe)( mehr| bekommen| erhalten)?\b/,
  /\b(hören sie auf|hör auf|aufhören|lassen sie mich in ruhe|lass mich in ruhe|nicht mehr (schreiben|anschreiben|kontaktieren|schicken|melden)|kein interesse|falsche nummer|abmelden|abbestellen|austragen|widerrufe|löschen sie)\b/,
  // French
  /\b(arrêtez|arretez|cessez|stop) (de |d |vos |ces |les )/,
  /\b(ne plus|ne (me|m) \w+ plus|plus de (sms|messages|mails|textos)|désabonn\w*|desabonn\w*|laissez moi tranquille|pas intéressée?|mauvais numéro)\b/,
  // Spanish
  /\b(deje|dejen|deja|paren|pare) de (enviar\w*|mandar\w*|escribir\w*|llamar\w*|molestar\w*|contactar\w*)\b/,
  /\b(no (me )?(envíe|envie|envíen|envien|mande|manden|escriba|escriban|contacten|molesten|quiero (más|mas|recibir))|darme de baja|dar de baja|no me interesa|número equivocado|numero equivocado)/,
  // Italian
  /\b(smett\w*|basta) (di|con|messaggi|sms)\b/,
  /\b(non (mi )?(scriv\w*|mand\w*|invi\w*|contatt\w*|disturb\w*)|cancellatemi|cancellami|disiscri\w*|non (mi interessa|sono interessat\w)|numero sbagliato)\b/,
  // Portuguese
  /\b(pare|parem|para) de (me )?(enviar|mandar|escrever|ligar|contactar|contatar)\b/,
  /\b(não (me )?(envie|enviem|mande|mandem|escreva|contacte|quero (mais|receber))|descadastr\w*|não tenho interesse|número errado)/,
  // Dutch
  /\b(stop|hou op|houd op) met\b/,
  /\b(geen (berichten|sms|mails|e mails) meer|niet meer (sturen|schrijven|bellen|contacteren)|laat me met rust|uitschrijven|afmelden|geen interesse|verkeerd nummer)\b/,
];

/** Whether a message that is no word alone may mean that they want no more: somebody has to read it before more goes out by itself. */
export function soundsLikeRefusal(text: string): boolean {
  const { apart } = normalWords(text.slice(0, 2000));
  return REFUSALS.some((pattern) => pattern.test(apart));
}
