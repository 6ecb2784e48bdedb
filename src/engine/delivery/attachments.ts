import type pg from 'pg';
import type { Attachment } from '../../core/workflow/plan.ts';
import type { HttpCaller } from '../../gateways/http.ts';
import type { AttachedFile } from '../../gateways/mail-server.ts';
import type { AttachmentPort } from '../../steps/performers.ts';

/** Most bytes attached to one email; mail servers commonly take 25 MB with the third that encoding adds. */
export const MOST_ATTACHED = 15 * 1024 * 1024;

/** Files kept here, and files fetched from an address the moment the email goes out. */
export class Attachments implements AttachmentPort {
  constructor(
    private readonly pool: pg.Pool,
    private readonly http: HttpCaller,
  ) {}

  async read(businessId: string, attachments: readonly Attachment[]): ReturnType<AttachmentPort['read']> {
    const files: AttachedFile[] = [];
    let bytes = 0;
    for (const attachment of attachments) {
      const got =
        attachment.from === 'file'
          ? await this.kept(businessId, attachment.fileId)
          : await this.fetched(attachment.url, attachment.name);
      if (!('content' in got)) return { ok: false, answer: got };
      bytes += got.content.length;
      if (bytes > MOST_ATTACHED)
        return refused(
          'attachment-too-big',
          'What is attached is larger than 15 MB in all. Send a link to it instead.',
        );
      files.push(got);
    }
    return { ok: true, files };
  }

  private async kept(businessId: string, id: string): Promise<AttachedFile | NotRead> {
    const { rows } = await this.pool.query<AttachedFile>(
      'select name, type, content from kept_file where id = $1 and business_id = $2',
      [id, businessId],
    );
    return rows[0] ?? refused('attachment-gone', 'The file attached to this email is no longer here.').answer;
  }

  private async fetched(url: string, name: string): Promise<AttachedFile | NotRead> {
    const outcome = await this.http.call('GET', url, {}, undefined, MOST_ATTACHED + 1);
    if (!outcome.ok) {
      const detail = `The file to attach could not be fetched. ${outcome.detail}`;
      return outcome.code === 'address-refused' || outcome.code === 'bad-address'
        ? refused(outcome.code, detail).answer
        : { kind: 'again', code: outcome.code, detail, afterMs: null };
    }
    const { status, headers, bytes } = outcome.reply;
    if (status >= 300) {
      const detail = `The file to attach could not be fetched: its address answered ${status}.`;
      return status >= 500 || status === 429
        ? { kind: 'again', code: `http-${status}`, detail, afterMs: null }
        : refused(`http-${status}`, detail).answer;
    }
    return { name, type: headers['content-type'] ?? 'application/octet-stream', content: bytes };
  }
}

type NotRead = Extract<Awaited<ReturnType<AttachmentPort['read']>>, { ok: false }>['answer'];

const refused = (code: string, detail: string) => ({
  ok: false as const,
  answer: { kind: 'refused' as const, code, detail },
});
