/** The words of a name, however it is written: "emailAddress", "E-mail_address" and "Email address" are alike. */
export const plainWords = (name: string): string[] =>
  name
    .replace(/([\p{Ll}\p{N}])(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .replace(/\be[^\p{L}\p{N}]+mail/gu, 'email')
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);
