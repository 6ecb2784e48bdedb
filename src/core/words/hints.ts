/** Words of ours that are not everyday language, as they are explained where they stand. `name` reads behind "What is". */
export const HINTS = {
  first: {
    called: 'First',
    name: 'First',
    means:
      'What is done in order before the lanes: tidying what was typed, looking something up, deciding whether to go on.',
  },
  sample: {
    called: 'Sample lead',
    name: 'the sample lead',
    means: 'Somebody who really came in. All messages are shown with what they sent; nothing goes to them by that.',
  },
  leadCard: {
    called: 'Lead card',
    name: 'the lead card',
    means:
      'Which of the answers is the name, the email, the phone and the consent. Set once for a source; every arrival becomes a lead by it.',
  },
  frontDoor: {
    called: 'Front door',
    name: 'the front door',
    means:
      'What somebody new meets when they write to you in chat for the first time: a short form, before anything else begins.',
  },
  textPart: {
    called: 'Parts of a text',
    name: 'a part of a text',
    means:
      'Texts are charged by parts: 160 characters of the plain alphabet, or 70 as soon as one sign is not in it. Longer texts are parted.',
  },
  needsYou: {
    called: 'Needs you',
    name: 'Needs you',
    means:
      'Things only a person can settle. Nothing here is lost, and nothing goes on by itself until somebody has looked.',
  },
  segment: {
    called: 'Segment',
    name: 'a segment',
    means:
      'People chosen by questions, such as “instrument is piano and agreed to emails”. Who is in it is found anew each time.',
  },
} as const;
export type HintTerm = keyof typeof HINTS;
