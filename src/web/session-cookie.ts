import type { AstroCookies } from 'astro';
import { SESSION_DAYS } from '../app/account/session.ts';

export const SESSION_COOKIE = 'pinebell_session';
/** What a browser holds of something that was begun and is to be ended by it: the second step of a sign-in, a key, a way to another service and back. */
export const ERRAND_COOKIE = 'pinebell_errand';
const ERRAND_MINUTES = 10;

/** The cookie behind TLS is Secure; on loopback without TLS it cannot be. */
const ours = (publicUrl: string, seconds: number) =>
  ({ path: '/', httpOnly: true, sameSite: 'lax', secure: publicUrl.startsWith('https:'), maxAge: seconds }) as const;

export const setSessionCookie = (cookies: AstroCookies, value: string, publicUrl: string): void =>
  cookies.set(SESSION_COOKIE, value, ours(publicUrl, SESSION_DAYS * 86_400));

export const setErrandCookie = (cookies: AstroCookies, value: string, publicUrl: string): void =>
  cookies.set(ERRAND_COOKIE, value, ours(publicUrl, ERRAND_MINUTES * 60));

/** Goes on with a sign-in: in, or to its second step. Gives where to. */
export function letIn(
  cookies: AstroCookies,
  came: { cookie: string } | { second: string },
  publicUrl: string,
  to: string,
): string {
  if ('cookie' in came) {
    setSessionCookie(cookies, came.cookie, publicUrl);
    if (cookies.has(ERRAND_COOKIE)) cookies.delete(ERRAND_COOKIE, { path: '/' });
    return to;
  }
  setErrandCookie(cookies, came.second, publicUrl);
  return to === '/' ? '/sign-in/code' : `/sign-in/code?to=${encodeURIComponent(to)}`;
}
