import type { APIRoute } from 'astro';
import { signOut } from '../app/account/session.ts';
import { SESSION_COOKIE } from '../web/session-cookie.ts';

export const POST: APIRoute = async ({ cookies, locals, redirect }) => {
  await signOut(locals.runtime, cookies.get(SESSION_COOKIE)?.value);
  cookies.delete(SESSION_COOKIE, { path: '/' });
  return redirect('/sign-in', 303);
};
