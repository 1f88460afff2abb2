import { FINDINGS, SEVERITIES, type Severity } from './findings.ts'

const HEADS: Readonly<Record<Severity, string>> = {
  stops: 'Stops documents',
  costs: 'Puts tax at stake',
  settle: 'To settle',
}
const MEANS: Readonly<Record<Severity, string>> = {
  stops: 'Documents fail, or lose their split, until it is mended.',
  costs:
    'Documents come to another tax than the baseline’s. What the month’s documents have at stake stands beside it.',
  settle: 'No tax moves by it yet.',
}

/** docs/findings.md, made of the words that the grid shows; `npm run docs` writes it, and a test holds it to them. */
export function findingsPage(): string {
  const sections = SEVERITIES.map((severity) => {
    const rows = Object.entries(FINDINGS)
      .filter(([, f]) => f.severity === severity)
      .map(([code, f]) => `| \`${code}\` | ${f.title} | ${f.means} | ${f.mend} |`)
    return `## ${HEADS[severity]}\n${MEANS[severity]}\n\n| code | finding | what it means | how to mend it |\n|---|---|---|---|\n${rows.join('\n')}\n`
  })
  return `# Findings of Align\n\nWhat the agreement grids find, by code. Written by \`npm run docs\` from \`packages/contract/src/sentences/findings.ts\`, which is also where the application takes its words from.\n\n${sections.join('\n')}`
}
