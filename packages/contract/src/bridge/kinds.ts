/** What a system is to the entity. */
export const SYSTEM_ROLES = [
  'ledger',
  'billing',
  'pos',
  'commerce',
  'purchasing',
  'payments',
  'bank',
  'tax-service',
] as const
export type SystemRole = (typeof SYSTEM_ROLES)[number]

/** What is true of a kind of document, whatever it says. */
interface KindOfDocument {
  /** What one is called. */
  readonly word: string
  /** Whose systems have it. */
  readonly role: SystemRole
  /** It takes back: its amounts are positive on the wire, and count the other way. */
  readonly returns: boolean
  /** A sale over a counter, taxed where its outlet is. */
  readonly counter: boolean
  /** Bought rather than sold. */
  readonly purchase: boolean
  /** It goes into the ledger one to one; of the others nothing is posted yet. */
  readonly posted: boolean
}

const SALE = { returns: false, counter: false, purchase: false, posted: false } as const

/** Every kind of document: one that is left out anywhere does not compile. */
export const DOCUMENT = {
  invoice: { ...SALE, word: 'Invoice', role: 'billing', posted: true },
  'credit-note': { ...SALE, word: 'Credit note', role: 'billing', posted: true, returns: true },
  receipt: { ...SALE, word: 'Receipt', role: 'pos', counter: true },
  refund: { ...SALE, word: 'Refund', role: 'pos', counter: true, returns: true },
  order: { ...SALE, word: 'Order', role: 'commerce' },
  return: { ...SALE, word: 'Return', role: 'commerce', returns: true },
  bill: { ...SALE, word: 'Bill', role: 'purchasing', purchase: true },
  'supplier-credit': { ...SALE, word: 'Supplier credit', role: 'purchasing', purchase: true, returns: true },
} as const satisfies Readonly<Record<string, KindOfDocument>>

export type DocumentKind = keyof typeof DOCUMENT
export const DOCUMENT_KINDS = Object.keys(DOCUMENT) as [DocumentKind, ...DocumentKind[]]

/** The kinds of which something is true. */
export function kindsWith(is: (kind: KindOfDocument) => boolean): readonly DocumentKind[] {
  return DOCUMENT_KINDS.filter((kind) => is(DOCUMENT[kind]))
}

/** The kinds of document that each role has. */
export const KINDS_OF = Object.fromEntries(
  SYSTEM_ROLES.map((role) => [role, kindsWith((kind) => kind.role === role)]),
) as Readonly<Record<SystemRole, readonly DocumentKind[]>>
