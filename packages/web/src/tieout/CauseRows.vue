<script setup lang="ts">
import { sayCause, type CauseView } from '@axion/contract'
import { useRoute } from 'vue-router'
import Amount from '../figures/Amount.vue'
import { count, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { markOf, unsearchedWords } from './leads.ts'

/** The causes of what is not proved, largest money first, each with its one way on. */
defineProps<{ causes: readonly CauseView[]; chosen: string | undefined }>()
const emit = defineEmits<{
  choose: [key: string | undefined]
  mend: [cause: CauseView]
  correct: [cause: CauseView]
}>()
/** So many stand in full; more scroll, so that the documents keep their place. */
const FEW = 5
const route = useRoute()
const format = useFormat()
</script>

<template>
  <div
    class="scroll causes"
    :class="{ many: causes.length > FEW }"
    tabindex="0"
    role="region"
    aria-label="Causes"
  >
    <table class="sheet cards" aria-label="Causes">
      <tbody>
        <tr
          v-for="c in causes"
          :key="c.key"
          :class="{ chosen: c.key === chosen }"
          :data-cause="c.key"
          @click="emit('choose', c.key === chosen ? undefined : c.key)"
        >
          <td class="kind"><StateMark :state="markOf(c.headline)" :word="c.headline" /></td>
          <td class="sentence" :title="sayCause(c.facts, format.longDay)">
            {{ sayCause(c.facts, format.longDay)
            }}<template v-if="c.others.length > 0">
              <span class="soft also"
                >Or equally: {{ c.others.map((o) => sayCause(o, format.longDay)).join(' ') }}</span
              ></template
            >
            <span v-if="unsearchedWords(c.unsearched)" class="soft also" data-unsearched>{{
              unsearchedWords(c.unsearched)
            }}</span>
          </td>
          <td class="n soft">{{ count(c.documents, 'document') }}</td>
          <td class="n money">
            <Amount :value="c.unproved" :of="{ of: 'unproved', cause: c.key }" breaks />
          </td>
          <td class="act">
            <button
              v-if="c.remedies.length > 0"
              class="do small"
              :class="{ first: c.key === (chosen ?? causes[0]?.key) }"
              type="button"
              @click.stop="emit('mend', c)"
            >
              Mend {{ c.documents }} <kbd v-if="c.key === (chosen ?? causes[0]?.key)">m</kbd>
            </button>
            <RouterLink
              v-else-if="c.headline === 'missing'"
              class="do small"
              :to="{ name: 'post', params: route.params }"
              @click.stop
              >To Post</RouterLink
            >
            <button v-else class="do small" type="button" data-correct @click.stop="emit('correct', c)">
              Correct {{ c.documents }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll.causes {
  margin-bottom: 10px;
  border-left: 3px solid var(--rust);
  flex: none;
  min-height: 0;
}
.causes.many {
  max-height: 192px;
}
.causes td {
  height: 34px;
}
.kind {
  width: 108px;
}
.sentence {
  max-width: 0;
  width: 100%;
  font-weight: 600;
}
.also {
  margin-left: 6px;
  font-weight: 400;
}
.money {
  font-size: 16px;
}
.act {
  width: 130px;
  text-align: right;
  max-width: none;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
</style>
