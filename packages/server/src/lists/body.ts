/** The most bytes that a request brings where it names what a person selected, one by one: ten thousand ids at their longest. */
export const LISTED_BYTES = 4 * 1024 * 1024
