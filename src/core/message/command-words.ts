import { normalWords } from './normal-words.ts';

/** What a message that says nothing else asks for. */
export type Command = 'stop' | 'start' | 'help';
export type CommandLanguage = 'en' | 'de' | 'fr' | 'es' | 'it' | 'pt' | 'nl';

/**
 * Words that end all messages of a channel, bring them back, or ask who writes. English words that end: 47 CFR §64.1200(a)(10) ("stop", "quit", "end",
 * "revoke", "opt out", "cancel", "unsubscribe"), from memory; the rest is common practice, from memory.
 */
const WORDS: Record<Command, Partial<Record<CommandLanguage, readonly string[]>>> = {
  stop: {
    en: [
      ...['stop', 'quit', 'end', 'revoke', 'opt out', 'optout', 'cancel', 'unsubscribe', 'stopall', 'stop all'],
      ...['no more texts', 'no more messages', 'stop texts', 'stop messages', 'stop now', 'revoke consent', 'i revoke'],
      ...['unsubscribe me', 'stop it', 'remove me', 'opt me out', 'full stop'],
    ],
    de: ['stopp', 'abmelden', 'abbestellen', 'austragen', 'keine sms mehr', 'keine nachrichten mehr', 'widerruf'],
    fr: ['arret', 'arrêt', 'arreter', 'arrêter', 'arrêtez', 'arretez', 'désabonner', 'desabonner', 'résilier'],
    es: ['alto', 'baja', 'parar', 'detener', 'cancelar', 'no más mensajes', 'no mas mensajes'],
    it: ['basta', 'annulla', 'ferma', 'disiscrivimi', 'cancellami', 'revoca'],
    pt: ['parar', 'pare', 'sair', 'cancelar', 'remover'],
    nl: ['afmelden', 'stoppen', 'uitschrijven', 'geen berichten meer'],
  },
  start: {
    en: ['start', 'unstop'],
    de: ['anmelden'],
    fr: ['reprendre'],
    es: ['alta', 'reanudar'],
    it: ['riprendi'],
    pt: ['retomar'],
    nl: ['aanmelden'],
  },
  help: {
    en: ['help', 'info'],
    de: ['hilfe'],
    fr: ['aide'],
    es: ['ayuda'],
    it: ['aiuto'],
    pt: ['ajuda'],
    nl: ['hulp'],
  },
};

const COMMANDS = new Map(
  Object.entries(WORDS).flatMap(([command, languages]) =>
    Object.entries(languages).flatMap(([language, words]) =>
      words.map((word) => [word, { command: command as Command, language: language as CommandLanguage }] as const),
    ),
  ),
);

/** Words that only make a wish polite. From memory. */
const POLITE =
  /(^| )(please|pls|plz|kindly|thanks|thank you|thx|ty|hi|hello|bitte|danke|hallo|svp|s il vous plaît|s il vous plait|merci|bonjour|por favor|gracias|hola|per favore|grazie|ciao|obrigado|obrigada|olá|alstublieft|aub|dank je|dank u)(?= |$)/gu;

const unpolite = (words: string) => words.replace(POLITE, ' ').replace(/ +/g, ' ').trim();

/** What a message asks for, and in which language; null when it says anything else. */
export function commandOf(text: string): { command: Command; language: CommandLanguage } | null {
  // No wish of a word or two is longer, and nobody's novel is looked through.
  if (text.length > 1000) return null;
  const { apart, joined } = normalWords(text);
  for (const words of [apart, joined, unpolite(apart), unpolite(joined)]) {
    const found = COMMANDS.get(words);
    if (found) return found;
  }
  return null;
}

const ANSWERS: Record<CommandLanguage, Record<Command, (name: string) => string>> = {
  en: {
    stop: (name) => `${name}: you will get no more messages here. Write START to get them again.`,
    start: (name) => `${name}: you will get messages here again. Write STOP to end them.`,
    help: (name) =>
      `This is ${name}. Write your question here and one of us will answer. Write STOP to get no more messages.`,
  },
  de: {
    stop: (name) => `${name}: Sie bekommen hier keine Nachrichten mehr. Mit START bekommen Sie wieder welche.`,
    start: (name) => `${name}: Sie bekommen hier wieder Nachrichten. Mit STOPP beenden Sie sie.`,
    help: (name) =>
      `Hier ist ${name}. Schreiben Sie Ihre Frage, wir antworten. Mit STOPP bekommen Sie keine Nachrichten mehr.`,
  },
  fr: {
    stop: (name) => `${name} : vous ne recevrez plus de messages ici. Écrivez START pour en recevoir à nouveau.`,
    start: (name) => `${name} : vous recevrez à nouveau des messages ici. Écrivez STOP pour les arrêter.`,
    help: (name) =>
      `Ici ${name}. Écrivez votre question, nous y répondrons. Écrivez STOP pour ne plus recevoir de messages.`,
  },
  es: {
    stop: (name) => `${name}: no recibirá más mensajes aquí. Escriba START para volver a recibirlos.`,
    start: (name) => `${name}: volverá a recibir mensajes aquí. Escriba STOP para terminarlos.`,
    help: (name) => `Somos ${name}. Escriba su pregunta y le contestaremos. Escriba STOP para no recibir más mensajes.`,
  },
  it: {
    stop: (name) => `${name}: non riceverà più messaggi qui. Scriva START per riceverli di nuovo.`,
    start: (name) => `${name}: riceverà di nuovo messaggi qui. Scriva STOP per terminarli.`,
    help: (name) => `Siamo ${name}. Scriva la sua domanda e risponderemo. Scriva STOP per non ricevere altri messaggi.`,
  },
  pt: {
    stop: (name) => `${name}: não receberá mais mensagens aqui. Escreva START para voltar a recebê-las.`,
    start: (name) => `${name}: voltará a receber mensagens aqui. Escreva STOP para as terminar.`,
    help: (name) =>
      `Aqui é ${name}. Escreva a sua pergunta e responderemos. Escreva STOP para não receber mais mensagens.`,
  },
  nl: {
    stop: (name) => `${name}: u krijgt hier geen berichten meer. Schrijf START om ze weer te krijgen.`,
    start: (name) => `${name}: u krijgt hier weer berichten. Schrijf STOP om ze te beëindigen.`,
    help: (name) =>
      `Dit is ${name}. Schrijf uw vraag en wij antwoorden. Schrijf STOP om geen berichten meer te krijgen.`,
  },
};

/** The one answer a command gets, in its own language. */
export const commandAnswer = (command: Command, language: CommandLanguage, business: string): string =>
  ANSWERS[language][command](business);
