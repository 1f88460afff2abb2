/**
 * The version of what this computation comes to. A determination is kept with it, so that what was worked out by another is told apart.
 * Raised whenever a document can come to something else than before; `version.test.ts` notices.
 */
export const CORE_VERSION = 1
