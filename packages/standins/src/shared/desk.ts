import { FAULTS, type FaultName, type FaultSwitches } from './faults.ts'

/** Text made safe for HTML. */
export function escape(text: unknown): string {
  return String(text ?? '').replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`)
}

/** A desk page: where a person works in the simulated system by hand. */
export function page(title: string, company: string, body: string): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${escape(title)}</title><style>
  body{font:15px/1.5 system-ui,sans-serif;max-width:72rem;margin:2rem auto;padding:0 1rem;color:#222;background:#fffdf6}
  table{border-collapse:collapse;width:100%}th,td{text-align:left;padding:.3rem .6rem;border-bottom:1px solid #ddd}
  td.n{text-align:right;font-variant-numeric:tabular-nums}form{display:inline}input,select,button{font:inherit;padding:.15rem .4rem}
  section{margin:2rem 0}h1{margin-bottom:0}.done{background:#e7f3e7;padding:.4rem .8rem}</style></head>
  <body><h1>${escape(title)}</h1><p>${escape(company)} · a stand-in, worked by hand on this page</p>${body}</body></html>`
}

/** How many rows a desk page shows at once; the rest is found. */
const MOST = 40

/** The newest rows, or those that somebody looks for. */
export function foundAmong<T>(all: readonly T[], find: string, textOf: (row: T) => string): T[] {
  const wanted = find.trim().toLowerCase()
  return (wanted === '' ? all : all.filter((row) => textOf(row).toLowerCase().includes(wanted))).slice(-MOST)
}

/** A form that looks for rows by what is typed. */
export function finder(action: string, find: string, what: string): string {
  return `<form method="get" action="${action}"><input name="find" value="${escape(find)}" aria-label="Find ${what}" placeholder="${what}"> <button>Find</button></form>`
}

export function form(action: string, fields: string, label: string): string {
  return `<form method="post" action="${escape(action)}">${fields} <button>${escape(label)}</button></form>`
}

export function field(name: string, value: string, label: string, more = ''): string {
  return `<input name="${escape(name)}" value="${escape(value)}" aria-label="${escape(label)}" ${more}>`
}

export function select(
  name: string,
  label: string,
  options: readonly (readonly [value: string, text: string])[],
  chosen = '',
): string {
  const rows = options.map(
    ([value, text]) =>
      `<option value="${escape(value)}"${value === chosen ? ' selected' : ''}>${escape(text)}</option>`,
  )
  return `<select name="${escape(name)}" aria-label="${escape(label)}">${rows.join('')}</select>`
}

export function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const cells = rows.map((row) => `<tr>${row.map((cell) => `<td>${cell}</td>`).join('')}</tr>`)
  return `<table><thead><tr>${head.map((h) => `<th scope="col">${escape(h)}</th>`).join('')}</tr></thead><tbody>${cells.join('')}</tbody></table>`
}

export function faultsSection(base: string, switches: FaultSwitches): string {
  const rows = Object.entries(FAULTS).map(([name, meaning]) => {
    const left = switches[name as FaultName] ?? 0
    const state = left === 0 ? 'off' : left < 0 ? 'on' : `on for ${left} requests`
    const input = `<input type="hidden" name="name" value="${name}">`
    const on = form(
      `${base}/desk/faults`,
      `${input}${field('requests', '-1', `${name} requests`, 'size="4"')}`,
      'On',
    )
    const off = form(`${base}/desk/faults`, `${input}<input type="hidden" name="requests" value="0">`, 'Off')
    return [escape(name), escape(meaning), state, `${on} ${off}`]
  })
  return `<section id="faults"><h2>Faults</h2>${table(['Fault', 'What it does', 'State', 'Requests (−1: until switched off)'], rows)}</section>`
}
