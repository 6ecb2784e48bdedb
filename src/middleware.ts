import { defineMiddleware } from 'astro:middleware';
import { AsyncLocalStorage } from 'node:async_hooks';
import type { APIContext, MiddlewareNext } from 'astro';
import { z } from 'zod';
import { businessMeant } from './app/account/businesses.ts';
import { actorOf } from './app/account/session.ts';
import { isSetUp } from './app/account/sign-in.ts';
import { type Actor, may } from './app/actor.ts';
import { notHere, Refusal } from './app/refusal.ts';
import { leadsBeyond } from './app/wall.ts';
import { within, writtenAt } from './client/within.ts';
import { pageRight } from './core/people/page-rights.ts';
import { getRuntime } from './runtime.ts';
import { BUSINESS_HEADER } from './web/business-header.ts';
import { CONTENT_SECURITY_POLICY, FRAMED_CONTENT_SECURITY_POLICY } from './web/content-security-policy.ts';
import { databaseAway, isDatabaseAway } from './web/database-away.ts';
import { problemResponse } from './web/problem-response.ts';
import { SESSION_COOKIE } from './web/session-cookie.ts';
import { surroundings } from './web/surroundings.ts';
import { whereFrom } from './web/where-from.ts';

const OPEN = new Set([
  '/sign-in',
  '/sign-in/code',
  '/api/sign-in/key',
  '/sign-in/with',
  '/sign-in/back',
  '/set-up',
  '/forgotten',
  '/allowed',
]);
/** Pages for whoever holds the link in an email: leaving, confirming, joining, a new password. */
const BY_LINK = /^\/(leave|confirm|join|new-password)\/[\w-]{20,100}$/;
/** Form pages are for everybody, and may stand in other sites' pages. */
const FORM_PAGE = /^\/f\/[\w-]+$/;

/** Pictures in emails, shown where nobody is signed in; the endpoint sets its own headers. */
const KEPT_PICTURE = /^\/kept\/[0-9a-f-]{36}$/;
/** Calendar programs read a feed by its address alone. */
const FEED = /^\/calendar\/[\w-]{20,60}\.ics$/;

/** Writes must come from our own pages: the browser says so by Sec-Fetch-Site or Origin. */
function isForeign(request: Request, publicUrl: string): boolean {
  const site = request.headers.get('sec-fetch-site');
  if (site !== null) return site !== 'same-origin' && site !== 'none';
  const origin = request.headers.get('origin');
  if (origin === null) return true;
  const host = request.headers.get('host');
  if (!URL.canParse(origin)) return true;
  return origin !== new URL(publicUrl).origin && (host === null || new URL(origin).host !== host);
}

/** What somebody asks as a person, in no business. */
const AS_PERSON = /^\/(businesses|sign-out|api\/(businesses|proof)(\/.*)?)$/;

/** What stands before the addresses of the page that is being written. */
const place = new AsyncLocalStorage<{ at: string }>();
writtenAt(() => place.getStore()?.at ?? '');

/** What stands in the address of a page and is no id of ours; the API looks at its own. */
const NO_IDS = new Set(['key', 'token', 'path', 'starter', 'topic']);

/** Whether every id in the address could be one. */
const leadsSomewhere = ({ params }: APIContext): boolean =>
  Object.entries(params).every(([name, value]) => NO_IDS.has(name) || z.uuid().safeParse(value).success);

/** Where what is asked is not to be had in this business: it is removed, or of several nobody said which. */
async function notInThis(
  context: APIContext,
  actor: Actor,
  key: string | null,
  path: string,
): Promise<Response | null> {
  const call = path.startsWith('/api/');
  if (actor.businessRemoved)
    return call
      ? problemResponse(
          new Refusal(409, 'removed', 'This business is removed. Put it back first, on the page of your businesses.'),
        )
      : context.redirect('/businesses');
  if (key !== null || !actor.several) return null;
  // A page that was open before they belonged to a second one, or an address from elsewhere.
  if (call || context.request.method !== 'GET')
    return problemResponse(
      new Refusal(
        409,
        'which-business',
        'You belong to several businesses, and this page does not say which is meant. Load it again.',
      ),
    );
  if (path === '/') return context.redirect('/businesses');
  const address = path + context.url.search;
  return context.redirect(`/at/${await businessMeant(surroundings(context), address)}${address}`);
}

/** With the database away, in words of ours. */
export const onRequest = defineMiddleware(async (context, next) => {
  try {
    const key = context.request.headers.get(BUSINESS_HEADER);
    return await place.run({ at: key === null ? '' : `/at/${key}` }, () => guarded(context, next, key));
  } catch (error) {
    if (!isDatabaseAway(error)) throw error;
    return databaseAway(context.url.pathname);
  }
});

async function guarded(context: APIContext, next: MiddlewareNext, key: string | null): Promise<Response> {
  const runtime = await getRuntime();
  const { request, cookies, locals } = context;
  const path = context.url.pathname.replace(/(.)\/$/, '$1');
  locals.runtime = runtime;
  const theme = cookies.get('pinebell_theme')?.value;
  locals.theme = theme === 'paper' || theme === 'night' ? theme : null;
  if (request.method !== 'GET' && request.method !== 'HEAD' && isForeign(request, runtime.settings.publicUrl))
    return problemResponse(new Refusal(403, 'another-site', 'This came from another site and was not done.'));
  if (KEPT_PICTURE.test(path) || FEED.test(path)) return next();
  const formPage = FORM_PAGE.test(path);
  const cookie = cookies.get(SESSION_COOKIE)?.value;
  locals.actor =
    formPage || BY_LINK.test(path)
      ? null
      : await actorOf(runtime, cookie, whereFrom(context), { key, remember: !path.startsWith('/api/') });
  // Signed in, and in no such business: told no more than that.
  if (!locals.actor && key !== null) {
    locals.actor = await actorOf(runtime, cookie);
    if (locals.actor) {
      place.getStore()!.at = '';
      if (path.startsWith('/api/')) return problemResponse(notHere('page or entry'));
      if (path !== '/businesses') return context.rewrite('/businesses');
    }
  } else if (locals.actor && !AS_PERSON.test(path) && !OPEN.has(path)) {
    const elsewhere = await notInThis(context, locals.actor, key, path);
    if (elsewhere) return elsewhere;
  }
  if (!locals.actor && !formPage && !BY_LINK.test(path) && !OPEN.has(path)) {
    if (path.startsWith('/api/'))
      return problemResponse(new Refusal(401, 'signed-out', 'You are signed out. Sign in and try again.'));
    if (!(await isSetUp(runtime))) return context.redirect('/set-up');
    return context.redirect(within(path) === '/' ? '/sign-in' : `/sign-in?to=${encodeURIComponent(within(path))}`);
  }
  if (!leadsSomewhere(context)) return context.rewrite('/not-here');
  // The API looks at its own table.
  if (locals.actor && !path.startsWith('/api/') && !OPEN.has(path) && !formPage && !BY_LINK.test(path)) {
    const right = pageRight(path);
    // Asked for more than a password, and that is all they have given.
    if (locals.actor.lacksSecond && right !== 'own') return context.redirect(within('/settings/you?more'));
    if (right && !may(locals.actor, right)) return context.rewrite('/not-yours');
    // Somebody else's lead is not here for whoever works with some only.
    if (locals.actor.leadsOf && (await leadsBeyond(surroundings(context), path + context.url.search)))
      return context.rewrite('/not-here');
  }
  const response = await next();
  const { headers } = response;
  headers.set('x-content-type-options', 'nosniff');
  headers.set('referrer-policy', 'same-origin');
  if (!formPage) headers.set('x-frame-options', 'DENY');
  if (headers.get('content-type')?.startsWith('text/html')) {
    // While pages are written, what tells the browser of a save stands in them.
    if (import.meta.env.PROD)
      headers.set('content-security-policy', formPage ? FRAMED_CONTENT_SECURITY_POLICY : CONTENT_SECURITY_POLICY);
    headers.set('cache-control', 'no-store');
  }
  return response;
}
