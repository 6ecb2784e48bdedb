import type { APIRoute } from 'astro';
import { readJson } from '../../../api/read-sent.ts';
import { beginPasskeySignIn, enterByPasskey } from '../../../app/account/passkeys.ts';
import { pathOfOurs } from '../../../web/path-of-ours.ts';
import { problemResponse } from '../../../web/problem-response.ts';
import { ERRAND_COOKIE, letIn, setErrandCookie } from '../../../web/session-cookie.ts';
import { whereFrom } from '../../../web/where-from.ts';

const json = (value: unknown) =>
  new Response(JSON.stringify(value), { headers: { 'content-type': 'application/json', 'cache-control': 'no-store' } });

/** What a device is to prove, for whoever signs in by a passkey: POST; and its proof: PUT. */
export const POST: APIRoute = async (context) => {
  try {
    const { runtime } = context.locals;
    const { token, options } = await beginPasskeySignIn(
      runtime,
      context.request.headers.get('host'),
      whereFrom(context),
    );
    setErrandCookie(context.cookies, token, runtime.settings.publicUrl);
    return json(options);
  } catch (error) {
    return problemResponse(error);
  }
};

export const PUT: APIRoute = async (context) => {
  try {
    const { runtime } = context.locals;
    const { value: answer } = await readJson(context.request);
    const came = await enterByPasskey(runtime, context.cookies.get(ERRAND_COOKIE)?.value, answer, whereFrom(context));
    const to = pathOfOurs(context.url.searchParams.get('to'));
    return json({ to: letIn(context.cookies, came, runtime.settings.publicUrl, to) });
  } catch (error) {
    return problemResponse(error);
  }
};
