import type { SaleKind } from '@axion/core'

/** What a document is sold for where it is no ordinary sale, as people call it. */
export const SALE_WORDS: Readonly<Record<SaleKind, string>> = {
  'own-use': 'own use',
  warranty: 'warranty',
  internal: 'another branch of ours',
}

/** What something is sold for, by the word that a document or a rule has it under. */
export function saleWord(kind: string): string {
  return kind in SALE_WORDS ? SALE_WORDS[kind as SaleKind] : kind
}
