/**
 * Works slices out while those before are written: the one takes processors, the other the database. Slices are read when nothing is being
 * written, and written one after the other. Where something fails, what is under way comes to its end before anybody hears of it: nobody writes
 * on when a transaction is over.
 * @param slices reads the database
 * @param work lets others have their turn in between, and reads nothing
 * @param ahead how many are worked out at a time
 * @returns what writing each of them gave
 */
export async function overlapped<T, W, R>(
  slices: AsyncIterable<T>,
  {
    work,
    write,
    ahead,
  }: {
    readonly work: (slice: T) => Promise<W>
    readonly write: (worked: W) => Promise<R>
    readonly ahead: number
  },
): Promise<R[]> {
  const written: R[] = []
  const underWay: Promise<W>[] = []
  let writing: Promise<unknown> = Promise.resolve()
  const each = slices[Symbol.asyncIterator]()
  let slice = await each.next()
  const begin = async (): Promise<void> => {
    while (!slice.done && underWay.length < ahead) {
      const begun = work(slice.value)
      // Whoever comes to it hears of it; until then nobody does.
      begun.catch(() => undefined)
      underWay.push(begun)
      slice = await each.next()
    }
  }
  try {
    await begin()
    for (let first = underWay.shift(); first; first = underWay.shift()) {
      const [worked] = await settled(first, writing)
      await begin()
      writing = write(worked).then((gave) => written.push(gave))
    }
    await writing
    return written
  } finally {
    await Promise.allSettled([...underWay, writing])
  }
}

/** Both, once both have come to their end. */
async function settled<A, B>(a: Promise<A>, b: Promise<B>): Promise<[A, B]> {
  const [first, second] = await Promise.allSettled([a, b])
  if (second.status === 'rejected') throw second.reason
  if (first.status === 'rejected') throw first.reason
  return [first.value, second.value]
}
