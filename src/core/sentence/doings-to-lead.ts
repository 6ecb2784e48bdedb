import {
  type DoingPattern,
  doingsIn,
  idOf,
  MAIL,
  messageOf,
  quoted,
  SAYING,
  step,
  THEM,
  WRITES,
} from './doing-words.ts';
import { NAMED, QUOTE } from './mask.ts';

/** What the lead gets. */
export const TO_LEAD: DoingPattern[] = [];
const doing = doingsIn(TO_LEAD);

doing(`draft an? (text|${MAIL}) for one of us to send`, ([, what]) => [
  what === 'text'
    ? step('text', 'lead', { message: WRITES.text, draft: true })
    : step('email', 'lead', { subject: WRITES.subject, message: WRITES.email, draft: true }),
]);
doing(
  `(?:send (?:${THEM} )?|${MAIL} ${THEM} )(?:the )?(?:${MAIL} )?(?:template )?(${NAMED})`,
  (read, _clause, reading) => {
    const template = reading.find(read[1]!, 'template');
    return template
      ? [step('email', 'lead', { subject: WRITES.subject, message: WRITES.email, template: template.id })]
      : null;
  },
);
doing(`thank ${THEM} (?:by|with an?) (text|${MAIL})`, ([, what]) => [
  what === 'text'
    ? step('text', 'lead', { message: WRITES.text })
    : step('email', 'lead', { subject: WRITES.subject, message: WRITES.email }),
]);
doing(`send ${THEM} the form (${NAMED})(?: in chat)?`, (read, clause, reading, from) => [
  step('chat', 'lead', {
    message: 'Please fill in this short form.',
    form: idOf('form', read[1], undefined, clause, reading, from),
  }),
]);
doing(
  `(?:write (?:to )?${THEM} in chat|chat with ${THEM}|message ${THEM}(?: in chat)?|send (?:${THEM} )?a chat(?: message)?)${SAYING}`,
  (read, clause, reading) => [
    step('chat', 'lead', { message: read[1] ? messageOf(quoted(clause, read[1]), reading.fields) : WRITES.text }),
  ],
);
doing(
  `(?:text ${THEM}|send (?:${THEM} )?(?:a|an|another|one more|the)(?: short| friendly| welcome| reminder)? (?:text|sms)|(?:a|another) text goes? out|a text(?= (?:saying|with)|\\s*$))(?: message)?(?: (?:to say thank you|to say thanks|again|back|at once|immediately|a reminder|a welcome))?${SAYING}`,
  (read, clause, reading) => [
    step('text', 'lead', { message: read[1] ? messageOf(quoted(clause, read[1]), reading.fields) : WRITES.text }),
  ],
);
doing(
  `(?:${MAIL} ${THEM}|send (?:${THEM} )?(?:an?|another|one more|the)(?: short| friendly| welcome| personal| thank-you| reminder)? ${MAIL}|write (?:to )?${THEM} (?:an ${MAIL}|by ${MAIL})|write ${THEM}(?! (?:in|into|down|to|on)(?:[^\\p{L}]|$))|an? ${MAIL}(?= (?:saying|with)|\\s*$))(?: (?:to say thank you|to say thanks|again|back|at once|immediately|a reminder|a welcome))?(?: (?:with|using|by|from)(?: the)?(?: template)? (${NAMED}))?(?: with the subject (${QUOTE}))?${SAYING}`,
  (read, clause, reading, from) => {
    // Words in quotes behind "with" are what it says; a name there is its template.
    const template = read[1] ? reading.find(read[1], 'template') : null;
    if (read[1] && !template && clause.token(read[1]).is === 'name')
      return [
        step('email', 'lead', {
          subject: WRITES.subject,
          message: WRITES.email,
          template: idOf('template', read[1], undefined, clause, reading, from),
        }),
      ];
    const said = read[1] && !template ? quoted(clause, read[1]) : quoted(clause, read[3]);
    return [
      step('email', 'lead', {
        subject: read[2] ? messageOf(quoted(clause, read[2]), reading.fields) : WRITES.subject,
        message: said ? messageOf(said, reading.fields) : WRITES.email,
        ...(template ? { template: template.id } : {}),
      }),
    ];
  },
);
doing(`ask ${THEM}(?: by text| (in chat))?(?: something)?:? ?(${QUOTE})?`, (read, clause, reading) => [
  step('ask', 'lead', {
    by: read[1] ? 'chat' : 'text',
    message: read[2] ? messageOf(quoted(clause, read[2]), reading.fields) : '',
    saveAs: 'answers.answer',
  }),
]);
