<script setup lang="ts">
import type { GridNames } from '@axion/contract'
import { computed, ref, useId, watch } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useAttempt } from '../shell/useAttempt.ts'

type Named = GridNames['names'][number]
/** One of the baseline's objects, found by typing: those given come first, then what the words typed find. Nothing is chosen until they name just one. */
const props = defineProps<{
  /** Where names are looked up, below the month; what is typed goes along. */
  names: string
  label: string
  first?: readonly Named[]
  placeholder?: string
}>()
const chosen = defineModel<string>({ required: true })
const { api } = useMonth()
const listId = useId()
const { refused, attempt } = useAttempt()
const found = ref<readonly Named[]>([])
const options = computed(() => [
  ...new Map([...(props.first ?? []), ...found.value].map((one) => [one.id, one])).values(),
])
/** Two may bear one name: the code tells them apart. */
const labelOf = ({ id, name }: Named): string => (name === id ? id : `${name} (${id})`)
const labelled = (id: string): string => options.value.filter((one) => one.id === id).map(labelOf)[0] ?? ''
const typed = ref(labelled(chosen.value))
watch(
  () => `${props.names} ${props.first?.map((one) => one.id).join() ?? ''}`,
  () => {
    found.value = []
    typed.value = labelled(chosen.value)
  },
)

let asked = 0
/** Reads what the words find; only the answer to the last that were typed counts. What somebody is still typing is never rewritten. */
const look = (words: string): Promise<void> =>
  attempt(async () => {
    const turn = ++asked
    const { names } = await call<GridNames>(
      'GET',
      `${api.value}${props.names}${props.names.includes('?') ? '&' : '?'}search=${encodeURIComponent(words)}`,
    )
    if (turn !== asked) return
    found.value = names
    const named = names.filter((one) => one.name === words || one.id === words)
    if (words !== '' && named.length === 1 && named[0]) chosen.value = named[0].id
  })
function take(text: string): void {
  typed.value = text
  const one = options.value.find((each) => labelOf(each) === text)
  chosen.value = one?.id ?? ''
  if (one) asked += 1
  else void look(text)
}
</script>

<template>
  <span class="name-choice">
    <input
      :value="typed"
      :list="listId"
      :aria-label="label"
      :placeholder="placeholder ?? 'choose what it is'"
      autocomplete="off"
      maxlength="300"
      @focus="found.length > 0 || look('')"
      @input="take(($event.target as HTMLInputElement).value)"
    />
    <small v-if="refused" class="breaks" role="alert">{{ refused.says }}</small>
    <datalist :id="listId"><option v-for="one in options" :key="one.id" :value="labelOf(one)" /></datalist>
  </span>
</template>

<style scoped>
.name-choice {
  display: flex;
  flex: 1 1 auto;
  min-width: 0;
  max-width: 230px;
}
input {
  flex: 1 1 auto;
  min-width: 0;
  width: 100%;
  font: inherit;
  font-size: 14px;
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--hair);
  height: 25px;
  padding: 0 6px;
}
</style>
