import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tellAccount } from './accounts.ts';
import { AdPlatformDesk } from './ad-platform.ts';
import { CALENDARS, CalendarDesk } from './booking-calendar.ts';
import { Carrier } from './carrier.ts';
import { ChatNetwork } from './chat-network.ts';
import { DirectoryDesk } from './company-directory.ts';
import { FeedDesk } from './content-feed.ts';
import { WRENFIELD_FORMS } from './forms.ts';
import { FUNNELS, FunnelDesk } from './funnel-host.ts';
import { readJson, reply } from './http.ts';
import { type MailReport, pressUnsubscribe, sendReport } from './mail-reports.ts';
import { mailServer, replyTo, writeMail } from './mailboxes.ts';
import { practicePast } from './past.ts';
import { PushReceiver } from './push-receiver.ts';
import { GOODS, ShopDesk } from './shop.ts';
import { Subscribers } from './subscribers.ts';
import { Trickle } from './trickle.ts';
import { World } from './world.ts';
import { type Appointment, NO_TROUBLE, type ShopOrder } from './world-state.ts';

export interface DeskOptions {
  port: number;
  smtpPort: number;
  /** Bearer token of the accounts at every service; the ad platform's second account adds "-adults" to it. */
  token: string;
  /** Pine Bell's own mail listener, smtp://host:port, for mail written at the desk; null when there is none. */
  inboundMail?: string | null;
  /** Where to remember; null for memory only. */
  file: string | null;
  /** Where "Back to Pine Bell" leads. */
  backTo: string;
  /** Made-up people come in by themselves. */
  trickle?: boolean;
  /** Serves the page's files; null in tests that have no page. */
  files: ((request: IncomingMessage, response: ServerResponse) => boolean) | null;
}

export interface Desk {
  world: World;
  url: string;
  smtpUrl: string;
  close(): Promise<void>;
}

/** Starts the whole practice desk: ad platform, carrier, mailboxes and the page to use them by. */
export async function openDesk(options: DeskOptions): Promise<Desk> {
  const world = new World(options.file, structuredClone(WRENFIELD_FORMS), practicePast(Date.now()));
  const { token } = options;
  const carrier = new Carrier(world, token);
  const chat = new ChatNetwork(world, token);
  const subscribers = new Subscribers(world);
  const ads = new AdPlatformDesk(world, subscribers, { school: token, adults: `${token}-adults` });
  const funnels = new FunnelDesk(world, subscribers, token);
  const shop = new ShopDesk({ world, subscribers, token });
  const calendar = new CalendarDesk({ world, subscribers, token });
  const feed = new FeedDesk(world);
  const companies = new DirectoryDesk(world, token);
  const pushes = new PushReceiver(world);

  const trickle = options.trickle ? new Trickle({ world, ads, funnels, shop, calendar, chat }, options.backTo) : null;

  const pageState = () => ({
    ...world.state,
    trickle: trickle ? world.state.trickle : null,
    reportSecret: undefined,
    chatAccount: undefined,
    subscriptions: world.state.subscriptions.map(({ secret: _, ...rest }) => rest),
    carrier: undefined,
    backTo: options.backTo,
    mails: world.state.mails.slice(-200),
    entries: [],
    pushes: world.state.pushes.slice(-60).map(({ value: _, ...rest }) => rest),
    orders: world.state.orders.slice(-20),
    appointments: world.state.appointments.slice(-20),
    goods: GOODS,
    calendars: CALENDARS,
    pushDevices: world.state.pushDevices.map(({ keys: _, ...device }) => device),
    funnels: FUNNELS.slice(0, 1),
    writesMail: Boolean(options.inboundMail),
  });

  async function api(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (path === '/state' && request.method === 'GET') return reply(response, 200, pageState());
    if (path === '/live' && request.method === 'GET') return live(request, response);
    if (request.method !== 'POST' && request.method !== 'PUT') return reply(response, 404, { detail: 'Nothing here.' });
    const body = await readJson(request);
    const form = world.state.forms.find((form) => path === `/forms/${form.id}/entries`);
    if (form) return reply(response, 200, { pushes: await ads.fillIn(form, body.answers as Record<string, string>) });
    const again = /^\/pushes\/([\w-]+)\/again$/.exec(path);
    if (again) return reply(response, 200, { push: await subscribers.again(again[1]!) });
    const copied = world.state.forms.find((form) => path === `/forms/${form.id}/copy`);
    if (copied) return reply(response, 200, { form: ads.copyForm(copied, String(body.name).slice(0, 60)) });
    const step = /^\/steps\/([\w-]+)\/visit$/.exec(path);
    if (step)
      return reply(response, 200, {
        pushes: await funnels.visit(step[1]!, body.person as Record<string, string>, body.buys === true),
      });
    if (path === '/shop/customers') return reply(response, 200, { pushes: await shop.signUp(body as never) });
    if (path === '/shop/orders')
      return reply(response, 200, { pushes: await shop.order(String(body.customerId), body.lines as never) });
    const order = /^\/shop\/orders\/([\w-]+)$/.exec(path);
    if (order)
      return reply(response, 200, {
        pushes: await shop.setStatus(order[1]!, String(body.status) as ShopOrder['status']),
      });
    if (path === '/appointments') return reply(response, 200, { pushes: await calendar.book(body as never) });
    const appointment = /^\/appointments\/([\w-]+)$/.exec(path);
    if (appointment)
      return reply(response, 200, {
        pushes: await calendar.change(appointment[1]!, String(body.status) as Appointment['status']),
      });
    if (path === '/episodes')
      return reply(response, 200, { episode: feed.publish(String(body.title), String(body.summary)) });
    if (path === '/mails' && options.inboundMail)
      return reply(response, 200, { told: await writeMail(options.inboundMail, body as never) });
    const answered = /^\/mails\/([\w-]+)\/reply$/.exec(path);
    const original = answered && world.state.mails.find((mail) => mail.id === answered[1]);
    if (original && options.inboundMail)
      return reply(response, 200, {
        told: await replyTo(options.inboundMail, original, String(body.text), body.automatic === true),
      });
    const report = /^\/mails\/([\w-]+)\/(no-such-user|full|spam|riddle|unsubscribe)$/.exec(path);
    const reported = report && world.state.mails.find((mail) => mail.id === report[1]);
    if (report && reported) {
      const kind = report[2] as MailReport | 'unsubscribe';
      const told =
        kind === 'unsubscribe'
          ? await pressUnsubscribe(reported)
          : options.inboundMail
            ? await sendReport(options.inboundMail, reported, kind)
            : 'Nobody takes reports.';
      return reply(response, 200, { told });
    }
    if (path === '/push-devices') return reply(response, 200, pushes.subscribe(String(body.name), originOf(request)));
    const off = /^\/push-devices\/([\w-]+)\/off$/.exec(path);
    if (off) {
      pushes.turnOff(off[1]!);
      return reply(response, 200, { ok: true });
    }
    if (path === '/hold-days') {
      world.state.adsHoldDays = Math.max(1, Math.min(400, Number(body.days) || 90));
      world.changed();
      return reply(response, 200, { ok: true });
    }
    if (path === '/trickle') {
      world.state.trickle = body.on === true;
      world.changed();
      return reply(response, 200, { ok: true });
    }
    if (path === '/trouble') {
      const known = Object.keys(NO_TROUBLE);
      world.state.trouble = {
        ...world.state.trouble,
        ...Object.fromEntries(Object.entries(body).filter(([name]) => known.includes(name))),
      };
      world.changed();
      return reply(response, 200, { ok: true });
    }
    if (path === '/phones/write')
      return reply(response, 200, await carrier.writeFrom(String(body.number), String(body.text)));
    if (path === '/chats/write')
      return reply(
        response,
        200,
        await chat.writeFrom(String(body.number), String(body.text), {
          button: body.button === true,
          name: String(body.name ?? '').slice(0, 100),
        }),
      );
    if (path === '/chats/form')
      return reply(
        response,
        200,
        await chat.answerFrom(String(body.number), {
          form: String(body.form),
          token: String(body.token),
          answers: body.answers as Record<string, string>,
        }),
      );
    const decided = /^\/chat-templates\/([\w-]+)\/(approved|refused|withdrawn)$/.exec(path);
    if (decided) {
      chat.decide(decided[1]!, decided[2] as 'approved', String(body.reason ?? '').slice(0, 300));
      return reply(response, 200, { ok: true });
    }
    if (path === '/chat-account') {
      world.state.chatAccount = {
        reportTo: String(body.reportTo),
        secret: String(body.secret),
        number: String(body.number),
      };
      world.changed();
      return reply(response, 200, { ok: true });
    }
    if (path === '/report-secret') {
      world.state.reportSecret = String(body.secret);
      world.changed();
      return reply(response, 200, { ok: true });
    }
    reply(response, 404, { detail: 'Nothing here.' });
  }

  function live(request: IncomingMessage, response: ServerResponse): void {
    response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    let timer: NodeJS.Timeout | null = null;
    const tell = () => {
      timer ??= setTimeout(() => {
        timer = null;
        response.write('data: change\n\n');
      }, 100);
    };
    const beat = setInterval(() => response.write(': here\n\n'), 15_000);
    world.on('change', tell);
    request.on('close', () => {
      world.off('change', tell);
      clearInterval(beat);
      if (timer) clearTimeout(timer);
    });
    response.write(': here\n\n');
  }

  const originOf = (request: IncomingMessage) => `http://${request.headers.host}`;

  /** Only this page itself may change things from a browser. */
  const foreign = (request: IncomingMessage) => {
    const { origin } = request.headers;
    return origin !== undefined && new URL(origin).host !== request.headers.host;
  };

  const server: Server = createServer((request, response) => {
    const path = new URL(request.url ?? '/', 'http://desk').pathname;
    if (tellAccount(world, token, path, request, response)) return;
    const handled =
      path === '/carrier/texts' && request.method === 'POST'
        ? carrier.take(request, response)
        : path === '/chat/messages' && request.method === 'POST'
          ? chat.take(request, response)
          : path === '/chat/forms' && request.method === 'POST'
            ? chat.forms(request, response)
            : path.startsWith('/chat/templates')
              ? chat.templates(path.slice('/chat/templates'.length), request, response)
              : path.startsWith('/ads/')
                ? ads.take((request.url ?? '').slice(4), request, response)
                : path.startsWith('/funnels/')
                  ? funnels.take((request.url ?? '').slice(8), request, response)
                  : path.startsWith('/shop/')
                    ? shop.take(path.slice(5), request, response)
                    : path.startsWith('/directory/')
                      ? companies.take((request.url ?? '').slice(10), request, response)
                      : path.startsWith('/calendar/')
                        ? calendar.take(path.slice(9), request, response)
                        : path.startsWith('/push/') && request.method === 'POST'
                          ? pushes.take(request, response, originOf(request))
                          : path.startsWith('/api/')
                            ? foreign(request)
                              ? Promise.resolve(reply(response, 403, { detail: 'Not from another page.' }))
                              : api(path.slice(4), request, response)
                            : null;
    if (handled) {
      handled.catch((error: Error) => {
        if (!response.headersSent) reply(response, 400, { code: 'bad-request', detail: error.message });
      });
      return;
    }
    if (path.startsWith('/feed/')) return feed.take(path.slice(5), request, response);
    if (path === '/') request.url = '/index.html';
    if (!options.files?.(request, response)) reply(response, 404, { detail: 'Nothing here.' });
  });
  const mail = mailServer(world);
  mail.on('error', (error) => process.stderr.write(`practice mail: ${error.message}\n`));
  await new Promise<void>((resolve) => server.listen(options.port, '127.0.0.1', resolve));
  await new Promise<void>((resolve) => mail.listen(options.smtpPort, '127.0.0.1', resolve));
  return {
    world,
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    smtpUrl: `smtp://127.0.0.1:${(mail.server.address() as AddressInfo).port}`,
    async close() {
      trickle?.stop();
      world.save();
      server.close();
      server.closeAllConnections();
      await new Promise<void>((resolve) => mail.close(resolve));
    },
  };
}
