import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import ts from 'typescript'

const SOURCES = join(import.meta.dirname, '../src')

/** Every name_of_more_words that a statement in the server's sources speaks of and does not give itself (as a column or a query of its own, or a value put in), with the files that have it. */
export function namesInSql(): ReadonlyMap<string, readonly string[]> {
  const found = new Map<string, string[]>()
  for (const file of readdirSync(SOURCES, { recursive: true, encoding: 'utf8' })) {
    if (!file.endsWith('.ts') || file.endsWith('.d.ts') || file.includes('migrations/')) continue
    const text = readFileSync(join(SOURCES, file), 'utf8')
    const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest)
    const isOwn = (name: string): boolean =>
      new RegExp(
        `\\bas ${name}\\b|\\b${name} as (?:materialized )?\\(|\\b${name}\\([a-z_, ]+\\) as|:${name}\\b`,
      ).test(text)
    const visit = (node: ts.Node): void => {
      if (ts.isImportDeclaration(node)) return
      if (ts.isStringLiteralLike(node) || ts.isTemplateHead(node) || ts.isTemplateMiddleOrTemplateTail(node))
        for (const [name] of node.text.replaceAll(/'[^']*'/g, '').matchAll(/\b[a-z]+(?:_[a-z0-9]+)+\b/g))
          if (!isOwn(name)) found.set(name, [...(found.get(name) ?? []), file])
      ts.forEachChild(node, visit)
    }
    visit(source)
  }
  return found
}
