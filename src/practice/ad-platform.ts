import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { readJson, reply } from './http.ts';
import { signedPost } from './signed-post.ts';
import type { AdForm, FormEntry, Push, Subscription, World } from './world.ts';

/** The ad platform: forms under ads, pushed to who has subscribed. Its API is in docs/gateways.md. */
export class AdPlatformDesk {
  constructor(
    private readonly world: World,
    private readonly token: string,
  ) {}

  /** GET /ads/forms and POST /ads/forms/ID/subscriptions */
  async take(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (request.headers.authorization !== `Bearer ${this.token}`)
      return reply(response, 401, { code: 'key', detail: 'The key of this account is not right.' });
    const { forms, subscriptions } = this.world.state;
    if (path === '/forms' && request.method === 'GET')
      return reply(response, 200, { forms: forms.map(({ id, name, page, live }) => ({ id, name, page, live })) });
    const match = /^\/forms\/([^/]+)\/subscriptions$/.exec(path);
    const form = forms.find((one) => one.id === decodeURIComponent(match?.[1] ?? ''));
    if (!form || request.method !== 'POST')
      return reply(response, 404, { code: 'no-such-form', detail: 'There is no such form.' });
    const body = await readJson(request);
    const made: Subscription = {
      id: randomUUID(),
      formId: form.id,
      url: String(body.url ?? ''),
      secret: String(body.secret ?? ''),
    };
    if (!/^https?:\/\//.test(made.url) || made.secret === '')
      return reply(response, 422, { code: 'shape', detail: 'A url and a secret are needed.' });
    subscriptions.splice(0, subscriptions.length, ...subscriptions.filter((one) => one.url !== made.url), made);
    this.world.changed();
    reply(response, 201, { id: made.id });
  }

  /** A customer sends the form in. Gives the pushes it caused. */
  async fillIn(form: AdForm, answers: Record<string, string>): Promise<Push[]> {
    const entry: FormEntry = { id: randomUUID(), formId: form.id, at: new Date().toISOString(), answers };
    this.world.state.entries.push(entry);
    this.world.changed();
    const to = this.world.state.subscriptions.filter((subscription) => subscription.formId === form.id);
    const pushes = await Promise.all(to.map((subscription) => this.push(form, entry, subscription)));
    if (this.world.state.trouble.adsSendTwice)
      await Promise.all(to.map((subscription) => this.push(form, entry, subscription)));
    return pushes;
  }

  /** Sends an entry once more, as it was. */
  async pushAgain(pushId: string): Promise<Push | null> {
    const { pushes, entries, forms, subscriptions } = this.world.state;
    const push = pushes.find((one) => one.id === pushId);
    const entry = entries.find((one) => one.id === push?.entryId);
    const form = forms.find((one) => one.id === push?.formId);
    const subscription = subscriptions.find((one) => one.id === push?.subscriptionId);
    return entry && form && subscription ? this.push(form, entry, subscription) : null;
  }

  private async push(form: AdForm, entry: FormEntry, subscription: Subscription): Promise<Push> {
    const result = await signedPost(
      subscription.url,
      subscription.secret,
      entry.id,
      {
        type: 'form.entry',
        entry: {
          id: entry.id,
          submittedAt: entry.at,
          form: { id: form.id, name: form.name },
          page: { name: form.page },
          ad: form.ad,
          hidden: form.hidden,
          answers: form.questions.flatMap((question) => {
            const value = entry.answers[question.key] ?? '';
            const answer = { key: question.key, label: question.kind === 'tick' ? 'Consent' : question.label, value };
            // The wording that stood beside the tick travels with it: it is the evidence.
            return question.kind === 'tick'
              ? [answer, { key: `${question.key}_wording`, label: 'Consent wording', value: question.label }]
              : [answer];
          }),
        },
      },
      this.world.state.trouble.adsWrongSignature,
    );
    const made: Push = {
      id: randomUUID(),
      entryId: entry.id,
      formId: form.id,
      subscriptionId: subscription.id,
      who: new URL(subscription.url).host,
      at: new Date().toISOString(),
      ms: result.ms,
      status: result.status,
      answer: result.body.slice(0, 500),
    };
    this.world.state.pushes.push(made);
    this.world.changed();
    return made;
  }
}
