<script setup lang="ts">
import type { AlignKind, DefaultsView } from '@axion/contract'
import type { NewItems } from '@axion/core'
import { computed, ref, watch } from 'vue'
import { count } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useView } from '../shell/useView.ts'

/** What new items or customers start with, agreed here; and what a change of it leaves as it is. */
const props = defineProps<{ kind: Extract<AlignKind, 'items' | 'parties'> }>()
const { api, changed, entity } = useMonth()
const { view, refused: notRead } = useView<DefaultsView>(() => '/align/defaults')
const { refused, attempt } = useAttempt()
const code = ref('')
const taxable = ref('')
const newItems = ref<NewItems>('left-open')
watch(view, (now) => {
  code.value = now?.itemTaxCode ?? ''
  newItems.value = now?.newItems ?? 'left-open'
  taxable.value = now?.partiesTaxable == null ? '' : now.partiesTaxable ? 'yes' : 'no'
})
const partiesTaxable = computed(() => (taxable.value === '' ? null : taxable.value === 'yes'))
const moved = computed(
  () =>
    view.value !== null &&
    ((code.value || null) !== view.value.itemTaxCode ||
      partiesTaxable.value !== view.value.partiesTaxable ||
      newItems.value !== view.value.newItems),
)
/** In words, what keeps its own. */
const kept = computed(() => {
  if (!view.value) return ''
  if (props.kind === 'parties')
    return `The ${count(view.value.parties, 'party', 'parties')} agreed upon, and whoever a system holds by now, stay as they are.`
  if (newItems.value === 'taken-in' && view.value.newItems !== 'taken-in')
    return `Each is taken in under its system’s code, or else under ${view.value.codes.find((one) => one.id === code.value)?.name ?? 'none: it is left open until a default is agreed'}; Post says so beside the document, and the latest changes take it back.`
  const standing = view.value.systems
    .filter((system) => system.onDefault > 0)
    .map((system) => `${system.onDefault} in ${system.name}, on ${system.code ?? 'no code'}`)
  return `The ${count(view.value.items, 'item')} agreed upon keep their codes${standing.length > 0 ? `; what stands on a system’s own default stays there until it is changed in it: ${standing.join('; ')}` : ''}.`
})
const agree = (): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}/align/defaults`, {
      itemTaxCode: code.value || null,
      partiesTaxable: partiesTaxable.value,
      newItems: newItems.value,
    })
    await changed()
  })
</script>

<template>
  <form v-if="view" class="defaults" data-defaults @submit.prevent="agree">
    <label v-if="kind === 'items'"
      >New items start under
      <select v-model="code" aria-label="New items start under" :disabled="entity.role === 'viewer'">
        <option value="">nothing agreed</option>
        <option v-for="each in view.codes" :key="each.id" :value="each.id">{{ each.name }}</option>
      </select></label
    >
    <label v-if="kind === 'items'"
      >An item that only documents name is
      <select
        v-model="newItems"
        aria-label="An item that only documents name is"
        :disabled="entity.role === 'viewer'"
      >
        <option value="left-open">left open until somebody decides</option>
        <option value="taken-in">taken in by the posting</option>
      </select></label
    >
    <label v-if="kind === 'parties'"
      >New customers start as
      <select v-model="taxable" aria-label="New customers start as" :disabled="entity.role === 'viewer'">
        <option value="">nothing agreed</option>
        <option value="yes">taxable</option>
        <option value="no">exempt</option>
      </select></label
    >
    <template v-if="moved"
      ><button class="do small" type="submit">Agree on it</button>{{ ' ' }}
      <span class="soft">{{ kept }}</span></template
    >
    <span v-if="refused" class="breaks" role="alert">{{ refused.says }} {{ refused.mend }}</span>
  </form>
  <RefusedNote v-else :refused="notRead" />
</template>

<style scoped src="./choice.css"></style>

<style scoped>
.defaults {
  margin: 8px 0 0;
  font-size: 14px;
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
</style>
