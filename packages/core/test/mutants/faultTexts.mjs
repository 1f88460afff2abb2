import { declareValuePlugin, PluginKind } from '@stryker-mutator/api/plugin'

const SAID = ['StringLiteral', 'TemplateLiteral', 'ObjectExpression']

/** What a fault or a remark says is left as it is: its code and facts are typed at the emitter, and no rule stands in them. */
export const strykerPlugins = [
  declareValuePlugin(PluginKind.Ignore, 'faultTexts', {
    shouldIgnore: (path) =>
      SAID.includes(path.node.type) &&
      path.findParent(
        (above) => above.isCallExpression() && ['fault', 'finding'].includes(above.node.callee.name),
      )
        ? 'the text of a fault'
        : undefined,
  }),
]
