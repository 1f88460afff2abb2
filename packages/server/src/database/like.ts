/** A text to be found anywhere, for SQL's LIKE: its own wildcards stand for themselves. */
export function likePattern(text: string): string {
  return `%${text.replace(/[\\%_]/g, '\\$&')}%`
}
