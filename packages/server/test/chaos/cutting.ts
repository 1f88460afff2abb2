import { connect, createServer, type AddressInfo, type Socket } from 'node:net'

/** A way to a port of loopback that can be cut: after so many bytes of what comes back, the connection is gone. */
export interface CuttableWay {
  readonly port: number
  /** The next connections end after so many bytes each. */
  cut(connections: number, afterBytes: () => number): void
  /** Whether nobody is at the other end for now. */
  down(isDown: boolean): void
  close(): Promise<void>
}

export async function cuttableWay(to: () => number): Promise<CuttableWay> {
  let [left, isDown] = [0, false]
  let after = (): number => 0
  const open = new Set<Socket>()
  const server = createServer((near) => {
    if (isDown) return void near.destroy()
    const far = connect(to(), '127.0.0.1')
    let budget = left > 0 ? (left--, after()) : Infinity
    for (const socket of [near, far]) {
      open.add(socket)
      socket.on('error', () => undefined)
      socket.on('close', () => {
        open.delete(socket)
        near.destroy()
        far.destroy()
      })
    }
    near.pipe(far)
    far.on('data', (bytes) => {
      if (bytes.length < budget) {
        budget -= bytes.length
        near.write(bytes)
        return
      }
      near.write(bytes.subarray(0, budget), () => near.destroy())
    })
  })
  await new Promise<void>((listening) => server.listen(0, '127.0.0.1', listening))
  return {
    port: (server.address() as AddressInfo).port,
    cut: (connections, afterBytes) => {
      left = connections
      after = afterBytes
      // Connections that are kept alive would never be cut.
      for (const socket of open) socket.destroy()
    },
    down: (is) => {
      isDown = is
      for (const socket of open) socket.destroy()
    },
    close: () =>
      new Promise((closed) => {
        for (const socket of open) socket.destroy()
        server.close(() => closed())
      }),
  }
}
