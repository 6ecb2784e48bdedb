import type { AstroCookies } from 'astro';
import { SESSION_DAYS } from '../app/account/session.ts';

export const SESSION_COOKIE = 'pinebell_session';

/** The cookie behind TLS is Secure; on loopback without TLS it cannot be. */
export function setSessionCookie(cookies: AstroCookies, value: string, publicUrl: string): void {
  cookies.set(SESSION_COOKIE, value, {
    path: '/',
    httpOnly: true,
    sameSite: 'lax',
    secure: publicUrl.startsWith('https:'),
    maxAge: SESSION_DAYS * 86_400,
  });
}
