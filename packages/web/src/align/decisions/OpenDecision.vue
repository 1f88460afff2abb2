<script setup lang="ts">
import type { DecisionRow } from '@axion/contract'
import { ref, watch } from 'vue'
import { useEvidence } from '../../evidence/useEvidence.ts'
import { count, useFormat } from '../../figures/format.ts'
import { useMonth } from '../../shell/month.ts'
import { ABOUT_WORDS, ENTERED_AS, nameOf } from './words.ts'

/** What somebody has to say: each side with who says so, what rests on it, and the documents that speak against it. */
const props = defineProps<{ decision: DecisionRow; may: boolean; busy: boolean; currency: string }>()
defineEmits<{ take: [option: string] }>()
const { entity, month } = useMonth()
const format = useFormat()
const evidence = useEvidence()
const chosen = ref(props.decision.options[0]?.key ?? '')
watch(
  () => props.decision.options.map(({ key }) => key).join('\n'),
  () => (chosen.value = props.decision.options[0]?.key ?? ''),
)
/** Of many alike, the first few; the rest are chosen from a list. */
const FEW = 4
</script>

<template>
  <article class="open" :data-decision="decision.key">
    <div class="what">
      <p>
        <b>{{ nameOf(decision) }}</b> <span class="soft">{{ ABOUT_WORDS[decision.about][0] }}</span>
      </p>
      <p class="why">
        {{ decision.doubts.join('; ')
        }}<template v-if="decision.called.length > 1"
          >: {{ decision.called.map((one) => `“${one}”`).join(' and ') }}</template
        >
      </p>
      <p v-if="decision.waitsFor.length > 0" class="why">
        rests on {{ decision.waitsFor.join(', ') }}: answer that first
      </p>
      <p v-if="decision.against.documents > 0" class="soft">
        {{ count(decision.against.documents, 'document') }}, {{ format.figure(decision.against.tax) }}
        {{ currency }} of tax, {{ decision.against.documents === 1 ? 'speaks' : 'speak' }} against it:
        <template v-for="(one, at) in decision.against.named.slice(0, 5)" :key="one.unit"
          >{{ at > 0 ? ', ' : ''
          }}<button class="plain" type="button" @click="evidence.show({ of: 'total', unit: one.unit })">
            {{ one.number }}
          </button></template
        ><template v-if="decision.against.documents > 5"> …</template>
      </p>
    </div>
    <div class="answers">
      <fieldset :disabled="!may || busy">
        <legend class="visually-hidden">{{ nameOf(decision) }}</legend>
        <template v-if="decision.options.length <= FEW">
          <label v-for="option in decision.options" :key="option.key">
            <input v-model="chosen" type="radio" :name="decision.key" :value="option.key" />
            <span
              >{{ option.says }}{{ ' '
              }}<small v-if="option.systems.length > 0">{{ option.systems.join(', ') }}</small></span
            >
          </label>
        </template>
        <select v-else v-model="chosen" :aria-label="nameOf(decision)">
          <option v-for="option in decision.options" :key="option.key" :value="option.key">
            {{ option.says }}
          </option>
        </select>
      </fieldset>
      <RouterLink
        v-if="may"
        class="plain"
        :to="{
          name: 'baseline',
          params: { entity: entity.id, month, kind: ENTERED_AS[decision.about] },
        }"
        >{{ decision.options.length === 0 ? 'enter it' : 'none of these: enter it' }}</RouterLink
      >
    </div>
    <div class="figures">
      <span
        >{{ count(decision.rests.documents, 'document')
        }}<small>{{ format.figure(decision.rests.tax) }} {{ currency }}</small></span
      >
      <button
        v-if="may && decision.waitsFor.length === 0"
        class="do small"
        :disabled="busy"
        type="button"
        :aria-label="`Accept for ${nameOf(decision)}`"
        @click="$emit('take', chosen)"
      >
        Accept
      </button>
    </div>
  </article>
</template>

<style scoped>
.open {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr) 210px;
  gap: 18px;
  padding: 9px 12px;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-left: 3px solid var(--plum);
  border-top-width: 0;
  font-size: 14px;
}
.open:first-of-type {
  border-top-width: 1px;
}
.answers {
  display: grid;
  gap: 4px;
  align-content: start;
  justify-items: start;
}
.answers .plain {
  font-size: 13.5px;
}
.why {
  color: var(--plum);
}
.soft,
small {
  color: var(--soft);
}
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  min-width: 0;
  display: grid;
  gap: 3px;
  align-content: start;
}
label {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
select {
  font: inherit;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 2px 8px;
  min-height: 29px;
  max-width: 100%;
}
.figures {
  display: flex;
  justify-content: flex-end;
  gap: 14px;
  align-items: flex-start;
  text-align: right;
}
.figures span {
  white-space: nowrap;
}
.figures small {
  display: block;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
@media (max-width: 760px) {
  .open {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
