<script setup lang="ts">
import type { PostState, PostView } from '@axion/contract'
import { useRoute } from 'vue-router'
import { count, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { WORD } from './words.ts'

/** Why documents are not posted: each reason once, with how many and how much, and where it is mended. */
defineProps<{ view: PostView }>()
defineEmits<{ show: [state: PostState] }>()
const route = useRoute()
const format = useFormat()
/** What is looked at, or mended, in the ledger itself. */
const IN_THE_LEDGER: readonly string[] = ['AXION_LEDGER_REFUSED', 'AXION_EDITED_IN_LEDGER', 'AXION_IN_DOUBT']
/** The ledger names a rate that it does not have: it is linked in Align. */
const refusedRate = (says: string): boolean => /\brate\b/i.test(says)
</script>

<template>
  <table class="sheet cards reasons" aria-label="Why documents are not posted">
    <tbody>
      <tr v-for="reason in view.reasons" :key="reason.state + reason.says" :data-reason="reason.code">
        <td class="kind"><StateMark state="breaks" :word="WORD[reason.state]" /></td>
        <td class="sentence" :title="`${reason.says} ${reason.mend}`">
          {{ reason.says }} <span class="soft">{{ reason.mend }}</span>
        </td>
        <td class="n soft">{{ count(reason.documents, 'document') }}</td>
        <td class="n strong">{{ format.amount(reason.tax) }}</td>
        <td class="act">
          <RouterLink
            v-if="/LINKED|SPLIT/.test(reason.code) || refusedRate(reason.says)"
            class="do small"
            :to="{ name: 'align', params: { ...route.params, kind: 'rates' } }"
            >Mend in Align</RouterLink
          >
          <a
            v-else-if="view.ledger && IN_THE_LEDGER.includes(reason.code)"
            class="do small"
            :href="view.ledger.address"
            target="_blank"
            rel="noreferrer"
            >Open {{ view.ledger.name }}</a
          >
          <button v-else type="button" class="do small" @click="$emit('show', reason.state)">Show</button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.reasons {
  margin-bottom: 10px;
  border-left: 3px solid var(--rust);
}
.reasons td {
  height: 34px;
}
.kind {
  width: 100px;
}
.sentence {
  max-width: 0;
  width: 100%;
  font-weight: 600;
}
.sentence .soft {
  font-weight: 400;
}
.act {
  width: 130px;
  text-align: right;
  max-width: none;
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
</style>
