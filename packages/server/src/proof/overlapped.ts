/**
 * Works slices out while those before are written: the one takes this process, the other the database. Slices are read, and written, one
 * after the other. Where something fails, what is under way comes to its end before anybody hears of it: nobody writes on when a transaction is over.
 * @param slices reads the database, when nothing is being written
 * @param work lets others have their turn in between, and reads nothing
 * @returns what writing each of them gave
 */
export async function overlapped<T, W, R>(
  slices: AsyncIterable<T>,
  work: (slice: T) => Promise<W>,
  write: (worked: W) => Promise<R>,
): Promise<R[]> {
  const written: R[] = []
  let writing: Promise<unknown> = Promise.resolve()
  const each = slices[Symbol.asyncIterator]()
  let slice = await each.next()
  while (!slice.done) {
    const [worked, before] = await Promise.allSettled([work(slice.value), writing])
    if (before.status === 'rejected') throw before.reason
    if (worked.status === 'rejected') throw worked.reason
    slice = await each.next()
    writing = write(worked.value).then((gave) => written.push(gave))
  }
  await writing
  return written
}
