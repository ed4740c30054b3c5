/** What Mallet refuses, in the languages of Oddmere. */
import { messages } from 'taxeon';

export const { refuse } = messages(
  {
    'tool.out': { tool: 'text', until: 'datetime' },
    'tool.in': { tool: 'text' },
    'badge.missing': { tool: 'text' },
    'loan.not-yours': { tool: 'text' },
  },
  {
    en: {
      'tool.out': 'The {tool} is out until {until}.',
      'tool.in': 'The {tool} is on the shelf already.',
      'badge.missing': 'The {tool} needs an induction first. Ask a steward for one.',
      'loan.not-yours': 'The {tool} is lent to somebody else.',
    },
    pl: {
      'tool.out': 'To narzędzie ({tool}) jest wypożyczone. Wraca: {until}.',
      'tool.in': 'To narzędzie ({tool}) stoi już na półce.',
      'badge.missing': 'To narzędzie ({tool}) wymaga najpierw szkolenia. Proszę zapytać opiekuna.',
      'loan.not-yours': 'To narzędzie ({tool}) wypożyczył ktoś inny.',
    },
    ja: {
      'tool.out': '{tool}は貸し出し中です。返却予定：{until}。',
      'tool.in': '{tool}はもう棚にあります。',
      'badge.missing': '{tool}には、先に安全講習が必要です。世話役に頼んでください。',
      'loan.not-yours': '{tool}は別の人が借りています。',
    },
  },
);
