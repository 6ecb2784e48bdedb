const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

/** Text made safe to stand in HTML, as content or in a quoted attribute. */
export const escapeHtml = (text: string): string => text.replace(/[&<>"']/g, (character) => ENTITIES[character]!);

const LINK = /\bhttps?:\/\/[^\s<>"']+[^\s<>"'.,;:!?)]/g;

/**
 * The HTML part of an email written as plain text: paragraphs at empty lines, line breaks kept, web addresses as links.
 * The text is escaped first, so nothing a lead typed becomes markup. `preheader` is what an inbox shows behind the subject.
 */
export function emailHtml(text: string, preheader = ''): string {
  const paragraphs = text
    .replace(/\r\n?/g, '\n')
    .split(/\n{2,}/)
    .map((paragraph) => paragraph.trim())
    .filter(Boolean)
    .map((paragraph) => {
      const lines = escapeHtml(paragraph).replace(/\n/g, '<br>\n');
      return `<p style="margin:0 0 1em">${lines.replace(LINK, (url) => `<a href="${url}">${url}</a>`)}</p>`;
    });
  return `<!doctype html>
<html><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"></head>
<body style="margin:0;padding:24px;font:16px/1.5 Helvetica,Arial,sans-serif;color:#1c2922;background:#ffffff">
${hidden(preheader)}<div style="max-width:560px">
${paragraphs.join('\n')}
</div></body></html>`;
}

const hidden = (preheader: string) =>
  preheader === '' ? '' : `<div style="display:none;max-height:0;overflow:hidden">${escapeHtml(preheader)}</div>\n`;

/** HTML with what an inbox shows behind the subject at the beginning of its body. */
export const withPreheader = (html: string, preheader: string): string =>
  preheader === '' ? html : html.replace(/<body[^>]*>/i, (body) => body + hidden(preheader));

/** A subject line is one line: line breaks and other control characters become spaces (RFC 5322 §2.2). */
export const headerText = (text: string): string =>
  text
    .replace(/[\u0000-\u001f\u007f\u2028\u2029]+/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
