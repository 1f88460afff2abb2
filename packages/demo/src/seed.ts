/** The demo's seed: another gives another quarter. */
export const SEED = 20_260_901
