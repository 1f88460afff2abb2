/** What is known of a page: where the next begins, and whether there is one. */
export interface Page {
  readonly next: string
  readonly more: boolean
}

/**
 * Asks a bridge for pages one after another, each as soon as the one before has said where it begins: a bridge takes its time, and meanwhile the
 * one before is staged.
 */
export class Ahead<P extends Page> {
  private next: { readonly after: string; readonly page: Promise<P> } | null = null

  /** @param read asks for the page past a sequence */
  constructor(private readonly read: (after: string) => Promise<P>) {}

  /** @throws whatever asking for it does, also where that was a while ago */
  async page(after: string): Promise<P> {
    const begun = this.next
    this.next = null
    const page = await (begun?.after === after ? begun.page : this.read(after))
    if (page.more) this.begin(page.next)
    return page
  }

  private begin(after: string): void {
    const page = this.read(after)
    // Whoever comes to it hears of it; where nobody does, it is of no use to anybody.
    page.catch(() => undefined)
    this.next = { after, page }
  }
}
