import { z } from 'zod';
import { AudienceAsked, askedOf, countAudience, listAudience, PeopleAsked } from '../app/messages/audience.ts';
import {
  changeFrontDoor,
  createChatForm,
  getChatForm,
  listChatForms,
  NewChatForm,
  putFormLive,
  removeChatForm,
  saveChatForm,
} from '../app/messages/chat-forms.ts';
import {
  createChatTemplate,
  getChatTemplate,
  listChatTemplates,
  NewChatTemplate,
  removeChatTemplate,
  saveChatTemplate,
  sendForReview,
} from '../app/messages/chat-templates.ts';
import {
  createTemplate,
  getTemplate,
  removeTemplate,
  saveTemplate,
  showLayout,
  TemplateInput,
} from '../app/messages/email-templates.ts';
import { keepFile, MOST_FILE } from '../app/messages/files.ts';
import { MailingInput, sendMailing, stopMailing } from '../app/messages/send-mailing.ts';
import { tryLinks } from '../app/messages/try-links.ts';
import { mailingToMe } from '../app/workflows/send-to-me.ts';
import { EmailLayout } from '../core/email/layout.ts';
import { ChatForm } from '../core/form/chat-form.ts';
import { ChatTemplateContent } from '../core/message/chat-template.ts';
import { FrontDoor } from '../core/message/front-door.ts';
import { EmailSettings } from '../steps/email/definition.ts';
import { doors } from './route.ts';

const Layout = z.object({ layout: EmailLayout });

const OwnMailing = z.object({ email: EmailSettings });

const { does, reads, takes, takesFile, writes, writesAlone } = doors('see-setup', 'build');

export const messagesRoutes = [
  reads('/audience', (use, _, query) => countAudience(use, askedOf(AudienceAsked, query))),
  reads('/audience/people', (use, _, query) => listAudience(use, askedOf(PeopleAsked, query))),
  reads('/chat-forms/:chatForm', (use, { chatForm }) => getChatForm(use, chatForm)),
  writes('PUT', '/chat-forms/:chatForm', ChatForm, (tx, content, { chatForm }) => saveChatForm(tx, chatForm, content)),
  writesAlone('DELETE', '/chat-forms/:chatForm', (tx, { chatForm }) => removeChatForm(tx, chatForm)),
  does('POST', '/chat-forms/:chatForm/live', (use, { chatForm }) => putFormLive(use, chatForm)),
  reads('/chat-forms', (use) => listChatForms(use)),
  writes('POST', '/chat-forms', NewChatForm, (tx, input) => createChatForm(tx, input)),
  reads('/chat-templates/:chatTemplate', (use, { chatTemplate }) => getChatTemplate(use, chatTemplate)),
  writes('PUT', '/chat-templates/:chatTemplate', ChatTemplateContent, (tx, content, { chatTemplate }) =>
    saveChatTemplate(tx, chatTemplate, content),
  ),
  writesAlone('DELETE', '/chat-templates/:chatTemplate', (tx, { chatTemplate }) =>
    removeChatTemplate(tx, chatTemplate),
  ),
  does('POST', '/chat-templates/:chatTemplate/review', (use, { chatTemplate }) => sendForReview(use, chatTemplate)),
  reads('/chat-templates', (use) => listChatTemplates(use)),
  writes('POST', '/chat-templates', NewChatTemplate, (tx, input) => createChatTemplate(tx, input)),
  reads('/email-templates/:emailTemplate', (use, { emailTemplate }) => getTemplate(use, emailTemplate)),
  writes('PUT', '/email-templates/:emailTemplate', TemplateInput, (tx, input, { emailTemplate }) =>
    saveTemplate(tx, emailTemplate, input),
  ),
  writesAlone('DELETE', '/email-templates/:emailTemplate', (tx, { emailTemplate }) =>
    removeTemplate(tx, emailTemplate),
  ),
  writes('POST', '/email-templates', TemplateInput, createTemplate),
  takes('POST', '/email-templates/links', Layout, (use, { layout }) => tryLinks(use, layout), 'build'),
  takes('POST', '/email-templates/show', Layout, (use, { layout }) => showLayout(use, layout), 'see-setup'),
  takesFile('/files', MOST_FILE, (use, file) => use.write((tx) => keepFile(tx, file))),
  writes('PUT', '/front-door', FrontDoor, (tx, door) => changeFrontDoor(tx, door)),
  writesAlone('POST', '/mailings/:mailing/stop', (tx, { mailing }) => stopMailing(tx, mailing)),
  writes('POST', '/mailings', MailingInput, sendMailing),
  takes('POST', '/mailings/to-me', OwnMailing, (use, { email }) => mailingToMe(use, email)),
] as const;
