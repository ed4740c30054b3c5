/** What the modules command says. */
export const modulesTexts = {
  'modules.heading': 'Modules',
  'modules.none': 'There are none.',
  'modules.unknown': 'There is no module “{module}”.',
  'modules.wrong': 'Nothing was reloaded.',
  'modules.reloaded': 'Reloaded: {modules}',
  'modules.new': 'New: {modules}',
  'modules.gone': 'Gone: {modules}',
  'modules.to-register': 'To be registered: {commands}',
  'modules.unchanged': 'Nothing has changed.',
  'describe.modules': 'The files that the commands are in',
  'describe.modules.list': 'Which modules there are, with their commands',
  'describe.modules.reload': 'Read what has changed anew, or one module',
  'describe.modules.module': 'Which one',
} as const;
