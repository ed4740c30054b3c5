/** The version of this package, which layers and queries tell each other. */
export const version = '0.1.0';

/** What versions that get along have in common: the major number; below 1.0 the minor one, too. */
export const compatible = version.split('.', version.startsWith('0.') ? 2 : 1).join('.');
