<script setup lang="ts">
import type { PostState, PostView, Selector } from '@axion/contract'
import { computed } from 'vue'
import Amount from '../figures/Amount.vue'
import { useFormat } from '../figures/format.ts'
import { MARK, STATES, WORD } from './words.ts'

/** How many documents stand in each state, with their tax; each narrows the list to its own. */
const props = defineProps<{
  view: PostView | null
  total: number
  state: string | undefined
  warned: boolean
}>()
defineEmits<{ show: [filter: { state: string | undefined; warned: string | undefined }] }>()
const format = useFormat()
const shown = computed(() => STATES.filter((s) => (props.view?.counts[s] ?? 0) > 0))
const of = (state: PostState): Selector => ({ of: 'tax', voice: 'stated', state })
</script>

<template>
  <button
    type="button"
    class="plain"
    :class="{ chosen: !state && !warned }"
    @click="$emit('show', { state: undefined, warned: undefined })"
  >
    All {{ total }}
  </button>
  <span v-for="each in shown" :key="each" class="state-filter">
    <button
      type="button"
      class="plain"
      :class="{ chosen: state === each }"
      :data-filter="each"
      @click="$emit('show', { state: each, warned: undefined })"
    >
      {{ WORD[each] }} {{ view?.counts[each] }}
    </button>
    <Amount :value="view?.tax[each] ?? '0'" :of="of(each)" :breaks="MARK[each] === 'breaks'" />
  </span>
  <button
    type="button"
    class="plain"
    :class="{ chosen: warned }"
    @click="$emit('show', { warned: warned ? undefined : 'yes', state: undefined })"
  >
    with a remark {{ view?.remarked.documents ?? 0 }}
  </button>
  <span v-if="view && view.remarked.documents > 0" class="soft">{{ format.amount(view.remarked.tax) }}</span>
</template>

<style scoped>
.state-filter {
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
}
</style>
