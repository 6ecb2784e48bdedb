import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import parsePhone from 'libphonenumber-js/max';
import { hasKey, readJson, reply } from './http.ts';
import { readForm } from './network-forms.ts';
import { signedPost } from './signed-post.ts';
import { type Refused, takeMessage } from './take-message.ts';
import { FIELD, fieldsOf, REVIEW_MS, readTemplate, reviewOf } from './template-review.ts';
import type { World } from './world.ts';

/** How long after they last wrote a business may answer freely. */
export const WINDOW_MS = 24 * 60 * 60_000;
const LONGEST = 4096;
const REPORT_AFTER_MS = 300;
/** A tester looks at the phone about this soon. */
const READ_AFTER_MS = 900;

/** The chat network: the HTTP API of docs/gateways.md, with the chat on the practice phones at its other end. */
export class ChatNetwork {
  constructor(
    private readonly world: World,
    private readonly token: string,
  ) {}

  /** POST /chat/messages */
  take(request: IncomingMessage, response: ServerResponse): Promise<void> {
    return takeMessage(
      this.world,
      {
        token: this.token,
        down: this.world.state.trouble.chatDown,
        busy: false,
        slowMs: 0,
        words: (body) => this.words(body),
        refuse: (to, text, body) => this.refusal(to, text, body),
        put: ({ id, at, to, text, from }, body) => {
          const form = formOf(body);
          const buttons = this.buttons(body);
          const message = { id, at, direction: 'to_phone' as const, text, with: from, buttons };
          this.world.chat(to).messages.push(form ? { ...message, form } : message);
        },
        sent: (_reportTo, key) => {
          this.tell('chat.delivered', key, REPORT_AFTER_MS);
          this.tell('chat.read', key, READ_AFTER_MS);
        },
      },
      request,
      response,
    );
  }

  private refusal(to: string, text: string, body: Record<string, unknown>): Refused | null {
    const refused = (code: string, detail: string, status = 422) => ({ status, code, detail });
    const form = formOf(body);
    if (form && !this.world.state.chatForms.some((chatForm) => chatForm.id === form.id))
      return refused('no-form', 'There is no such form', 404);
    if (form && form.token === '') return refused('no-token', 'A form needs a token that comes back with the answers');
    if (!parsePhone(to)?.isPossible()) return refused('not-a-number', 'Not a phone number');
    if (body.kind === 'template') {
      const template = this.template(body.template);
      if (!template) return refused('no-template', 'There is no such template', 404);
      if (template.state !== 'approved') return refused('not-approved', 'This template is not approved');
      const fields = (body.fields ?? {}) as Record<string, string>;
      const missing = fieldsOf(template.text).find((name) => !fields[name]?.trim());
      if (missing) return refused('missing-field', `The field ${missing} is empty`);
      return template.form === Boolean(form) ? null : refused('form', 'The template opens a form, or it does not');
    }
    if (body.kind !== 'free') return refused('unknown-kind', 'A message is free, or of a template');
    if (text === '') return refused('empty', 'The message is empty');
    if (text.length > LONGEST) return refused('too-long', `A message may have ${LONGEST} characters`);
    const last = this.world.chat(to).messages.findLast((message) => message.direction === 'from_phone');
    if (!last || Date.now() - Date.parse(last.at) > WINDOW_MS)
      return refused('window-shut', 'They have not written within 24 hours, so a free message is not allowed', 409);
    return null;
  }

  private template(id: unknown) {
    return this.world.state.chatTemplates.find((chatTemplate) => chatTemplate.id === id);
  }

  /** What is read on the phone. */
  private words(body: Record<string, unknown>): string {
    if (body.kind !== 'template')
      return [body.heading, body.text, body.closing].filter(Boolean).map(String).join('\n\n');
    const template = this.template(body.template);
    if (!template) return '';
    const fields = (body.fields ?? {}) as Record<string, string>;
    const text = template.text.replace(FIELD, (_, name: string) => fields[name.trim()] ?? '');
    return [template.heading, text, template.closing].filter(Boolean).join('\n\n');
  }

  private buttons(body: Record<string, unknown>): string[] {
    if (body.kind === 'template') return this.template(body.template)?.buttons ?? [];
    return Array.isArray(body.buttons) ? body.buttons.map(String).slice(0, 3) : [];
  }

  /** POST /chat/templates and GET /chat/templates/ID */
  async templates(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (this.world.state.trouble.chatDown) {
      request.socket.destroy();
      return;
    }
    if (!hasKey(request, response, this.token)) return;
    if (request.method === 'GET') {
      const found = this.template(decodeURIComponent(path.slice(1)));
      return found
        ? reply(response, 200, { id: found.id, state: found.state, reason: found.reason })
        : reply(response, 404, { code: 'no-template', detail: 'There is no such template.' });
    }
    const read = readTemplate(await readJson(request));
    if (typeof read === 'string') return reply(response, 422, { code: 'shape', detail: read });
    this.world.state.chatTemplates.push(read);
    this.world.changed();
    setTimeout(() => {
      const reason = reviewOf(read);
      if (read.state === 'waiting') this.decide(read.id, reason === '' ? 'approved' : 'refused', reason);
    }, REVIEW_MS);
    reply(response, 201, { id: read.id, state: read.state });
  }

  /** A reviewer's word, or the network's second thoughts. */
  decide(id: string, state: 'approved' | 'refused' | 'withdrawn', reason: string): void {
    const template = this.template(id);
    if (!template) return;
    Object.assign(template, { state, reason });
    this.world.changed();
    const account = this.world.state.chatAccount;
    if (!account) return;
    const value = { type: 'chat.template', data: { template: id, state, reason, at: new Date().toISOString() } };
    void signedPost(
      { url: account.reportTo, secret: account.secret },
      { id: `template-${id}-${state}`, event: '', value },
      'standard-webhooks',
    );
  }

  /** POST /chat/forms */
  async forms(request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (this.world.state.trouble.chatDown) {
      request.socket.destroy();
      return;
    }
    if (!hasKey(request, response, this.token)) return;
    const read = readForm(await readJson(request));
    if (typeof read === 'string') return reply(response, 422, { code: 'shape', detail: read });
    this.world.state.chatForms.push(read);
    this.world.changed();
    reply(response, 201, { id: read.id });
  }

  /** Somebody sends the answers of a form from a practice phone. `token` is the form's own, or one made up for the trying. */
  async answerFrom(
    number: string,
    { form, token, answers }: { form: string; token: string; answers: Record<string, string> },
  ): Promise<{ reached: boolean }> {
    const id = randomUUID();
    const at = new Date().toISOString();
    const { messages } = this.world.chat(number);
    const opened = messages.findLast((message) => message.form?.token === token);
    if (opened?.form) opened.form.sent = true;
    const about = this.world.state.chatForms.find((chatForm) => chatForm.id === form);
    const text = `✓ ${about?.heading ?? 'Form'}`;
    messages.push({ id, at, direction: 'from_phone', text, with: '' });
    this.world.changed();
    return this.push(`form-${id}`, 'chat.form', { id, from: number, form, token, answers, at });
  }

  private async push(id: string, type: string, data: Record<string, unknown>): Promise<{ reached: boolean }> {
    const account = this.world.state.chatAccount;
    if (!account) return { reached: false };
    const event = { id, event: '', value: { type, data: { to: account.number, ...data } } };
    const result = await signedPost({ url: account.reportTo, secret: account.secret }, event, 'standard-webhooks');
    return { reached: result.status === 200 };
  }

  private tell(type: 'chat.delivered' | 'chat.read', key: string, afterMs: number): void {
    const account = this.world.state.chatAccount;
    if (!account) return;
    setTimeout(() => {
      const value = { type, data: { reference: key, at: new Date().toISOString() } };
      void signedPost(
        { url: account.reportTo, secret: account.secret },
        { id: `${type}-${key}`, event: '', value },
        'standard-webhooks',
      );
    }, afterMs);
  }

  /** Somebody writes in chat on a practice phone, or taps what a message offers; `name` is what they call themselves there. */
  async writeFrom(
    number: string,
    text: string,
    { button = false, name = '' }: { button?: boolean; name?: string } = {},
  ): Promise<{ reached: boolean }> {
    const id = randomUUID();
    const at = new Date().toISOString();
    this.world.chat(number).messages.push({ id, at, direction: 'from_phone', text, with: '' });
    this.world.changed();
    return this.push(`in-${id}`, 'chat.received', {
      ...{ id, from: number, text, at },
      ...(button ? { button: true } : {}),
      ...(name ? { name } : {}),
    });
  }
}

/** The form a message opens, as it was handed over. */
function formOf(body: Record<string, unknown>): { id: string; token: string } | null {
  const { id, token } = (body.form ?? {}) as { id?: unknown; token?: unknown };
  return typeof id === 'string' && id !== '' ? { id, token: typeof token === 'string' ? token : '' } : null;
}
