/** The version of this release; package.json bears the same, which a test sees to. */
export const version = '0.10.0';
