import { PHONE_PROBLEMS, readPhone } from '../../people/phone.ts';
import { type Filter, fine, unlessEmpty } from './filter.ts';

const FORMS = [
  ['international', '+44 7700 900142'],
  ['national', '07700 900142'],
  ['digits', '+447700900142'],
] as const;

export const CONTACT = {
  phone: {
    group: 'contact',
    label: 'phone written as',
    takes: [{ label: 'like', takes: FORMS, first: 'international' }],
    words: ([form = 'international']) => `like ${FORMS.find(([name]) => name === form)?.[1] ?? form}`,
    apply: unlessEmpty((value, [form = 'international'], { country }) => {
      const number = readPhone(value, country);
      if (!number.ok) return { value, problem: PHONE_PROBLEMS[number.problem] };
      if (form === 'digits') return fine(number.e164);
      return fine(form === 'national' ? number.national : number.international);
    }),
  },
} satisfies Record<string, Filter>;
