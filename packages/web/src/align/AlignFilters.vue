<script setup lang="ts">
import type { GridView } from '@axion/contract'
import { computed, ref } from 'vue'
import { count } from '../figures/format.ts'
import { useNarrowing } from '../grid/useNarrowing.ts'

/** What a grid is narrowed to and ordered by: all of it stands in the address. */
defineProps<{ view: GridView | null }>()
const filter = ref<HTMLInputElement | null>(null)
const { query, set } = useNarrowing()
const only = computed(() => query('only') === 'differs')
defineExpose({ focus: () => filter.value?.focus() })
</script>

<template>
  <div class="bar">
    <input
      ref="filter"
      type="search"
      :value="query('search') ?? ''"
      placeholder="Name or code"
      aria-label="Filter by name or code"
      @change="set({ search: ($event.target as HTMLInputElement).value || undefined })"
    />
    <select
      v-if="view && (view.byCode.length > 0 || query('code'))"
      :value="query('code') ?? ''"
      aria-label="Filter by finding"
      @change="set({ code: ($event.target as HTMLSelectElement).value || undefined })"
    >
      <option value="">every finding</option>
      <option v-for="each in view.byCode" :key="each.code" :value="each.code">
        {{ each.title }} ({{ each.findings }})
      </option>
    </select>
    <label class="soft"
      >in order of
      <select
        :value="query('sort') ?? 'name'"
        aria-label="Order"
        @change="
          set({
            sort:
              ($event.target as HTMLSelectElement).value === 'name'
                ? undefined
                : ($event.target as HTMLSelectElement).value,
          })
        "
      >
        <option value="name">the baseline</option>
        <option value="stake">what is at stake</option>
        <option value="findings">findings</option>
        <option value="documents">documents touched</option>
      </select></label
    >
    <button
      type="button"
      class="plain"
      :class="{ chosen: query('only') === 'left' }"
      @click="set({ only: query('only') === 'left' ? undefined : 'left' })"
    >
      left as they are
    </button>
    <button type="button" class="plain" @click="set({ only: only ? undefined : 'differs' })">
      {{ only ? 'show all' : 'only what differs' }} <kbd>f</kbd>
    </button>
    <span v-if="view" class="soft push"
      >{{ count(view.total, 'row')
      }}<template v-if="view.total !== view.inBaseline"
        >, {{ view.inBaseline }} in the baseline</template
      ></span
    >
  </div>
</template>

<style scoped src="./bar.css"></style>

<style scoped>
.bar input {
  width: 190px;
}
</style>
