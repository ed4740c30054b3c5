/** The version of this package, which layers and queries tell each other. */
export const version = '0.1.0';
