<script setup lang="ts">
import { SALE_WORDS, type GridNames, type RuleDraft, type RulesView } from '@axion/contract'
import { SALE_KINDS } from '@axion/core'
import { computed, ref } from 'vue'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import { isBySource, isWhole } from './words.ts'

/** One rule: what a line has to be like, then what it stands under. What is left open is no condition. */
const props = defineProps<{ rule: RuleDraft; choices: RulesView['choices'] }>()
const emit = defineEmits<{ done: [rule: RuleDraft]; cancel: [] }>()
const { api } = useMonth()
const draft = ref(JSON.parse(JSON.stringify(props.rule)) as RuleDraft)
const found = ref<Readonly<Record<'items' | 'parties', GridNames['names']>>>({ items: [], parties: [] })
async function look(kind: 'items' | 'parties', typed: string): Promise<void> {
  const { names } = await call<GridNames>(
    'GET',
    `${api.value}/align/${kind}/names?search=${encodeURIComponent(typed)}`,
  )
  found.value = { ...found.value, [kind]: names.slice(0, 50) }
}
type When = RuleDraft['when']
type Then = RuleDraft['then']
const orNone = (text: string): string | null => (text.trim() === '' ? null : text.trim())
const when = (key: keyof When, value: string): void =>
  void (draft.value = { ...draft.value, when: { ...draft.value.when, [key]: orNone(value) } })
const then = (key: keyof Then, value: string): void =>
  void (draft.value = { ...draft.value, then: { ...draft.value.then, [key]: orNone(value) } })
const text = (event: Event): string => (event.target as HTMLInputElement).value
/** What is typed is the condition, and is looked for among the names. */
function typed(key: keyof When, kind: 'items' | 'parties', event: Event): void {
  when(key, text(event))
  void look(kind, text(event))
}
function countAs(event: Event): void {
  then('item', text(event))
  void look('items', text(event))
}
const lists = computed(() => [
  { key: 'region' as const, label: 'sold in', any: 'anywhere', of: props.choices.regions },
  { key: 'method' as const, label: 'paid by', any: 'any method', of: props.choices.methods },
  { key: 'system' as const, label: 'of the system', any: 'any system', of: props.choices.systems },
  {
    key: 'stated' as const,
    label: 'its flag says',
    any: 'either way, or not',
    of: [
      { id: 'taxable', name: 'taxable' },
      { id: 'not-taxable', name: 'not taxable' },
    ],
  },
  {
    key: 'saleKind' as const,
    label: 'sold for',
    any: 'whatever it is sold for',
    of: SALE_KINDS.map((id) => ({ id, name: SALE_WORDS[id] })),
  },
])
const outcomes = computed(() => [
  {
    key: 'itemTaxCode' as const,
    label: 'item tax code',
    any: 'as without the rule',
    of: props.choices.codes,
  },
  {
    key: 'account' as const,
    label: 'account',
    any: 'by the posting rules',
    of: props.choices.accounts.map(({ id, name }) => ({ id, name: `${id} ${name}` })),
  },
  { key: 'dimension' as const, label: 'dimension', any: 'none', of: props.choices.dimensions },
])
</script>

<template>
  <form class="editor" aria-label="Rule" @submit.prevent="emit('done', draft)">
    <label class="name">Name <input v-model="draft.name" required maxlength="200" autofocus /></label>
    <fieldset>
      <legend>When a line is such</legend>
      <label
        >its text has
        <input
          :value="draft.when.text ?? ''"
          maxlength="200"
          placeholder="any text"
          @input="when('text', text($event))"
      /></label>
      <label
        >its item is
        <input
          :value="draft.when.item ?? ''"
          list="rule-items"
          maxlength="60"
          placeholder="any item, or none"
          @focus="look('items', '')"
          @input="typed('item', 'items', $event)"
      /></label>
      <label
        >its party is
        <input
          :value="draft.when.party ?? ''"
          list="rule-parties"
          maxlength="200"
          placeholder="anybody"
          @focus="look('parties', '')"
          @input="typed('party', 'parties', $event)"
      /></label>
      <label v-for="each in lists" :key="each.key"
        >{{ each.label }}
        <select :value="draft.when[each.key] ?? ''" @change="when(each.key, text($event))">
          <option value="">{{ each.any }}</option>
          <option v-for="one in each.of" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select></label
      >
      <label
        >sold through
        <input
          :value="draft.when.channel ?? ''"
          list="rule-channels"
          maxlength="200"
          placeholder="any channel"
          @input="when('channel', text($event))"
      /></label>
    </fieldset>
    <fieldset>
      <legend>Then it stands under</legend>
      <label
        >as the item
        <input
          :value="draft.then.item ?? ''"
          list="rule-items"
          maxlength="60"
          placeholder="only where it has none"
          data-then="item"
          @focus="look('items', '')"
          @input="countAs"
      /></label>
      <label v-for="each in outcomes" :key="each.key"
        >{{ each.label }}
        <select
          :value="draft.then[each.key] ?? ''"
          :data-then="each.key"
          @change="then(each.key, text($event))"
        >
          <option value="">{{ each.any }}</option>
          <option v-for="one in each.of" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select></label
      >
    </fieldset>
    <fieldset>
      <legend>On what days</legend>
      <label>from <input v-model="draft.from" type="date" required /></label>
      <label
        >until
        <input
          type="date"
          :value="draft.to ?? ''"
          :min="draft.from"
          @change="draft.to = orNone(text($event))"
      /></label>
    </fieldset>
    <p v-if="isBySource(draft)" class="soft" data-by-source>
      Its source decides: what such a line is taxed as stands on that flag alone, agreed and checked by
      nobody. Tie out and the close sheet say how much does.
    </p>
    <p class="actions">
      <button class="do" type="submit" :disabled="!isWhole(draft)">Put it in the list</button>{{ ' ' }}
      <button class="plain" type="button" @click="emit('cancel')">Not now</button>{{ ' ' }}
      <span v-if="!isWhole(draft)" class="soft">It needs a name, one condition and one outcome.</span>
    </p>
    <datalist id="rule-items">
      <option v-for="one in found.items" :key="one.id" :value="one.id">{{ one.name }}</option>
    </datalist>
    <datalist id="rule-parties">
      <option v-for="one in found.parties" :key="one.id" :value="one.id">{{ one.name }}</option>
    </datalist>
    <datalist id="rule-channels"><option v-for="one in choices.channels" :key="one" :value="one" /></datalist>
  </form>
</template>

<style scoped>
.editor {
  border: 1px solid var(--rule);
  border-left: 3px solid var(--plum);
  background: var(--sheet);
  padding: 10px 14px;
  margin-bottom: 10px;
  font-size: 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  gap: 6px 18px;
}
legend {
  font-weight: 600;
  margin-bottom: 4px;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
  justify-content: space-between;
  color: var(--soft);
}
.name {
  justify-content: flex-start;
}
.name input {
  width: 320px;
}
input,
select {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  height: 26px;
  padding: 0 6px;
  width: 178px;
}
.actions {
  display: flex;
  gap: 12px;
  align-items: center;
}
</style>
