/**
 * What each note of who changed what says, after the name of whoever did it. In braces stand what the note carries ("{version}") and, as {thing}, what it is
 * about: “Trial lesson”, or the kind alone where its name is not known any more.
 */
const SAID: Record<string, string> = {
  'archive.download': 'took out what came in in {month} as a file',
  'archive.read': 'read a file of what came in again',
  'arrival.again': 'had arrivals of the source {thing} handled again',
  'arrival.attachment': 'took out a file that had come in',
  'bulk.clean': 'took {count} leads off a list, because writing to them leads to nothing',
  'bulk.erase': 'erased {count} leads',
  'bulk.join': 'put {count} leads on a list',
  'bulk.leave': 'took {count} leads off a list',
  'bulk.owner': 'gave {count} leads to somebody',
  'bulk.stop': 'stopped something done with many leads',
  'bulk.tag': 'tagged {count} leads',
  'bulk.untag': 'took a tag off {count} leads',
  'business.begin': 'began the business',
  'business.change': 'changed the business',
  'business.counting': 'changed what is counted of links and opened emails',
  'business.keeping': 'changed how long what was sent is kept',
  'business.marketing': 'changed how many news and offers one person gets in a day',
  'business.notes': 'changed how long these notes are kept',
  'business.put_back': 'put the business back',
  'business.remove': 'removed the business, for some days to be put back',
  'business.second': 'changed whether everybody signs in with more than a password',
  'business.take_out': 'took out the whole business as an archive',
  'business.texts': 'changed where texts may go, and how many',
  'calendar.add': 'entered an appointment, “{title}”',
  'calendar.bookings': 'changed into whose calendar bookings go',
  'calendar.feed': 'made the address of their calendar anew',
  'calendar.import': 'read a calendar file: {added} added, {changed} changed, {removed} removed',
  'calendar.own_add': 'began to keep a colleague’s own calendar, “{name}”, in step',
  'calendar.own_remove': 'took out a colleague’s own calendar, “{name}”',
  'calendar.remove': 'took out an appointment',
  'canned_answer.keep': 'kept an answer, “{name}”',
  'canned_answer.put_back': 'put back a kept answer, “{name}”',
  'canned_answer.remove': 'removed a kept answer',
  'chat_form.create': 'made the chat form {thing}',
  'chat_form.live': 'put live version {version} of the chat form {thing}',
  'chat_form.put_back': 'put back the chat form {thing}',
  'chat_form.remove': 'removed the chat form {thing}',
  'chat_form.save': 'changed the chat form {thing}',
  'chat_template.create': 'made the chat template {thing}',
  'chat_template.put_back': 'put back the chat template {thing}',
  'chat_template.remove': 'removed the chat template {thing}',
  'chat_template.review': 'sent version {version} of the chat template {thing} to be approved',
  'chat_template.save': 'changed the chat template {thing}',
  'connection.access': 'allowed access at {thing}',
  'connection.access_begin': 'went to {thing} to allow access',
  'connection.access_end': 'threw away what was allowed at {thing}',
  'connection.add': 'connected {thing}',
  'connection.call': 'made a call of the connection {thing} by hand',
  'connection.care': 'set until when the key of {thing} holds and whose certificates it believes',
  'connection.change': 'changed the connection {thing}',
  'connection.no_signing': 'stopped signing the emails of {thing}',
  'connection.put_back': 'put back the connection {thing}',
  'connection.tables': 'changed which tables at {name} rows are written to: {tables}',
  'connection.look_ups': 'changed what steps can ask of {name}: {lookUps}',
  'connection.remove': 'removed the connection {thing}',
  'connection.signing': 'made a key that signs the emails of {thing}',
  'connection.show_report_secret': 'looked at the secret of the connection {thing}',
  'consent.export': 'took out consents as a file',
  'consent.record': 'wrote down what a lead said of {channel}: {state}',
  'conversation.answer': 'answered a lead by {channel}',
  'conversation.change': 'changed a conversation',
  'costs.feed': 'made a way costs come in by, “{name}”',
  'costs.feed_removed': 'removed a way costs came in by',
  'costs.forget': 'took out {lines} lines of costs',
  'costs.rate_removed': 'removed a rate of a currency',
  'costs.rates': 'entered rates of currencies',
  'costs.take': 'entered {lines} lines of costs',
  'deal.change': 'changed a deal',
  'deal.move': 'moved a deal',
  'deal.open': 'opened a deal',
  'device.add': 'added a device, “{name}”',
  'device.change': 'changed what a device of theirs is told of',
  'device.remove': 'removed a device',
  'draft.drop': 'threw away a message that waited to be read',
  'draft.send': 'read a message and sent it',
  'email_template.create': 'made the email template {thing}',
  'email_template.put_back': 'put back the email template {thing}',
  'email_template.remove': 'removed the email template {thing}',
  'email_template.save': 'changed the email template {thing}',
  'file.keep': 'kept a file',
  'first_visit.change': 'went on with the first steps',
  'front_door.change': 'changed the front door of chat',
  'import.export': 'took out the refused rows of {thing}',
  'import.how_read': 'changed how the file of {thing} is read',
  'import.start': 'began to bring people in from {thing}',
  'import.stop': 'stopped bringing people in from {thing}',
  'import.undo': 'undid what was brought in from {thing}',
  'import.upload': 'sent a file for {thing}',
  'invitation.accept': 'came in by an invitation, as {role}',
  'invitation.again': 'sent an invitation to {email} again',
  'invitation.make': 'invited {email} as {role}',
  'invitation.withdraw': 'withdrew the invitation to {email}',
  'lead.edit': 'changed the name or the addresses of {thing}',
  'lead.erase': 'erased a lead for good',
  'lead.export': 'took out all that is known of {thing}',
  'lead.merge': 'made another lead one with {thing}',
  'lead.note': 'wrote a note about {thing}',
  'lead.part': 'parted two leads again',
  'lead.put_back': 'put back what {thing} was called before',
  'lead.refusal_read': 'read whether {thing} wants no more messages: {means}',
  'lead.release_number': 'took a number off {thing}',
  'lead.whose_number': 'said whose number it is: {answer}',
  'leads.export': 'took out leads as a file',
  'list.change': 'changed the list {thing}',
  'list.create': 'made the list {thing}',
  'list.field': 'gave the list {thing} a field, “{label}”',
  'list.member': 'changed what a list knows of {thing}',
  'list.put_back': 'put back the list {thing}',
  'list.put_on': 'put {thing} on a list',
  'list.remove': 'removed the list {thing}',
  'list.take_off': 'took {thing} off a list',
  'mailing.send': 'sent an email to many, “{subject}”',
  'mailing.stop': 'stopped an email to many',
  'message.try': 'sent a message to themselves, to try it',
  'month.mail': 'changed who gets the page of the month',
  'names.as_it_came': 'let a mark of an ad be called again as it came',
  'names.show_as': 'called a mark of an ad “{shownAs}”',
  'need.handled': 'saw to something that needed somebody',
  'outcome.note': 'noted an outcome of {thing}: {name}',
  'outcome.remove_kind': 'stopped counting an outcome',
  'outcome.take_back': 'took back an outcome of {thing}',
  'passkey.add': 'added a passkey, “{name}”',
  'passkey.remove': 'took away a passkey, “{name}”',
  'password.change': 'changed their password',
  'password.reset': 'made a new password by a link',
  'person.change': 'changed what {name} may do',
  'person.leave': 'let {name} go',
  'person.name': 'changed what they are called',
  'person.dates': 'changed the language of their dates',
  'person.telling': 'changed how they are told of what comes',
  'person.working': 'changed when {thing} works',
  'pipeline.put_back': 'put back the pipeline {thing}',
  'pipeline.remove': 'removed the pipeline {thing}',
  'pipeline.change': 'changed the pipeline {thing}',
  'pipeline.create': 'made the pipeline {thing}',
  'practice.remove': 'removed the practice world',
  'practice.switch_on': 'switched on the practice world',
  'run.again': 'had a lead gone through a workflow again',
  'run.handled': 'saw to a lead a workflow could not go on with',
  'second.codes': 'made new recovery codes',
  'second.start': 'added codes of their phone',
  'second.stop': 'did away with codes of their phone',
  'segment.change': 'changed the segment {thing}',
  'segment.create': 'made the segment {thing}',
  'segment.put_back': 'put back the segment {thing}',
  'segment.remove': 'removed the segment {thing}',
  'session.end': 'ended a sign-in of theirs elsewhere',
  'session.end_others': 'ended {ended} sign-ins of theirs elsewhere',
  'settings.test': 'changed where their own tests go',
  'share.take': 'took what was shared as a file',
  'sheet.add': 'made the sheet {thing}',
  'sheet.add_rows': 'added {rows} rows to a sheet',
  'sheet.add_tab': 'added a tab, “{name}”, to the sheet {thing}',
  'sheet.change_tab': 'changed the columns of a tab',
  'sheet.put_back': 'put back the sheet {thing}',
  'sheet.delete': 'removed the sheet {thing}',
  'sheet.delete_tab': 'deleted the tab “{name}”',
  'sheet.export': 'took out the sheet “{sheet}” as a file',
  'sheet.rename': 'renamed a sheet to “{name}”',
  sign_in: 'signed in',
  'sign_in.failed': 'could not sign in: the password was wrong',
  'sign_on.change': 'changed the sign-in of the business’s own',
  'sign_on.remove': 'did away with the sign-in of the business’s own',
  sign_out: 'signed out',
  'site.add': 'added pages that are counted, {name}',
  'site.remove': 'removed pages that are counted',
  'source.add': 'added the source {thing}',
  'source.card': 'changed the lead card of {thing}',
  'source.change': 'changed the source {thing}',
  'source.file': 'sent a file to the source {thing}',
  'source.how_read': 'changed how the source {thing} is read',
  'source.new_address': 'made the address of {thing} anew',
  'source.put_back': 'put back the source {thing}',
  'source.remove': 'removed the source {thing}',
  'source.show_secret': 'looked at the secret of the source {thing}',
  'tag.put_back': 'put back the tag “{name}”',
  'tag.remove': 'removed the tag “{name}”',
  'tag.create': 'made the tag “{name}”',
  'task.done': 'settled a task',
  'task.reopen': 'opened a task again',
  'team.change': 'changed the team {name}',
  'team.make': 'made the team {name}',
  'team.remove': 'removed the team {name}',
  'test_recipients.change': 'changed where their own tests go',
  'thing.name': 'renamed or moved the {kind} {thing}',
  'thing.share': 'shared {thing} as a file',
  'workflow.create': 'made the workflow {thing}',
  'workflow.from_sentence': 'made the workflow {thing} from a sentence',
  'workflow.pause': 'paused the workflow {thing}',
  'workflow.put_live': 'put live version {version} of the workflow {thing}',
  'workflow.put_back': 'put back the workflow {thing}',
  'workflow.remove': 'removed the workflow {thing}',
  'workflow.rename': 'renamed a workflow to “{name}”',
  'workflow.restore': 'took version {version} of the workflow {thing} as the draft',
  'workflow.resume': 'let the workflow {thing} go on',
  'workflow.sample': 'chose another sample for the workflow {thing}',
  'workflow.share': 'shared workflows as a file',
};

/** Every action that has words. */
export const AUDIT_ACTIONS: readonly string[] = Object.keys(SAID);

/** What notes can be narrowed down to: the first part of an action, with its words. */
export const AUDIT_ABOUT: Record<string, string> = {
  workflow: 'Workflows',
  source: 'Sources',
  lead: 'Leads',
  list: 'Lists',
  conversation: 'Conversations',
  connection: 'Connections',
  deal: 'Deals',
  pipeline: 'Pipelines',
  segment: 'Segments',
  tag: 'Tags',
  email_template: 'Email templates',
  chat_template: 'Chat templates',
  chat_form: 'Chat forms',
  team: 'Teams',
  sheet: 'Sheets',
  person: 'People',
  invitation: 'Invitations',
  business: 'The business',
  sign_in: 'Signing in',
  bulk: 'Done with many',
};

const shown = (value: unknown): string =>
  value === null || value === undefined || value === ''
    ? 'nothing'
    : typeof value === 'object'
      ? JSON.stringify(value)
      : value === true
        ? 'yes'
        : value === false
          ? 'no'
          : String(value);

/**
 * One note as a sentence without who did it: "put live version 3 of the workflow “Trial lesson”". Of an action of a version that is not known, its own name.
 *
 * @param thing what it is about is called now; null where that is not known, and what the note carries is taken
 */
export function auditWords(action: string, detail: Record<string, unknown>, thing: string | null): string {
  const words = SAID[action];
  if (words === undefined) return action.replace('.', ', ').replaceAll('_', ' ');
  const name = typeof detail.name === 'string' && detail.name !== '' ? detail.name : thing;
  return words
    .replace(/\s?\{thing\}/, name === null ? '' : ` “${name}”`)
    .replace(/\{(\w+)\}/g, (_, key: string) => (detail[key] === undefined ? '…' : shown(detail[key])))
    .trim();
}

const LABELS: Record<string, string> = {
  whoseLeads: 'whose leads',
  timeZone: 'time zone',
  marketingPerDay: 'a day',
  keepsSentMonths: 'months',
  keepsNotesMonths: 'months',
  textCountries: 'countries',
  textPartsPerDay: 'parts a day',
  textPartCost: 'cost of a part',
  optIn: 'asks for confirmation',
  mostPerMinute: 'most a minute',
  summaryAt: 'what waits, in the morning at',
  who: 'who is in it',
  next_step: 'next step',
};

/** What was before and what is after, of notes that carry both: only what differs. */
export function auditChanges(detail: Record<string, unknown>): { what: string; before: string; after: string }[] {
  const { before, after } = detail;
  if (typeof before !== 'object' || typeof after !== 'object' || before === null || after === null) return [];
  const [was, is] = [before as Record<string, unknown>, after as Record<string, unknown>];
  return [...new Set([...Object.keys(was), ...Object.keys(is)])]
    .filter((key) => JSON.stringify(was[key] ?? null) !== JSON.stringify(is[key] ?? null))
    .map((key) => ({
      what:
        LABELS[key] ??
        key
          .replaceAll('_', ' ')
          .replace(/([a-z])([A-Z])/g, '$1 $2')
          .toLowerCase(),
      before: shown(was[key]),
      after: shown(is[key]),
    }));
}
