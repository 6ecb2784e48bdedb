import type { Answer } from '../core/delivery/answer.ts';
import type { ChatMessage } from '../core/workflow/plan.ts';
import { handOver, type MessageAccount } from './hand-over.ts';
import type { HttpCaller } from './http.ts';

/** How the chat network is called in what the coordinator is told. */
export const CHAT_NETWORK = 'The chat network';

/** Hands one message, free or of an approved template, with a form or without, to a chat network by the HTTP API of docs/gateways.md. `key` is the idempotency key. */
export const sendChat = (
  http: HttpCaller,
  account: MessageAccount,
  { to, from, text, template, heading, closing, buttons, form }: ChatMessage,
  key: string,
  now: () => number,
): Promise<Answer> =>
  handOver(
    http,
    account,
    '/messages',
    {
      ...(template
        ? { to, from, kind: 'template', template: template.id, fields: template.fields }
        : {
            ...{ to, from, kind: 'free', text },
            ...(heading ? { heading } : {}),
            ...(closing ? { closing } : {}),
            ...(buttons?.length ? { buttons } : {}),
          }),
      ...(form ? { form: { id: form.remoteId, token: form.token } } : {}),
    },
    key,
    'the chat network',
    now,
  );
