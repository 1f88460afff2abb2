<script setup lang="ts">
import { computed } from 'vue'

/** A column's heading that orders the list by it. */
const props = defineProps<{ name: string; sort: string | undefined; down: string | undefined; n?: boolean }>()
defineEmits<{ sort: [name: string] }>()
const order = computed(() =>
  props.sort !== props.name ? 'none' : props.down === 'yes' ? 'descending' : 'ascending',
)
</script>

<template>
  <th scope="col" :class="{ n }" :aria-sort="order">
    <button type="button" :data-sort="name" title="Order by it" @click="$emit('sort', name)">
      <slot /><svg v-if="order !== 'none'" viewBox="0 0 8 8" width="8" height="8" aria-hidden="true">
        <path
          :d="order === 'ascending' ? 'M1 6 4 2 7 6' : 'M1 2 4 6 7 2'"
          fill="none"
          stroke="currentColor"
        />
      </svg>
    </button>
  </th>
</template>

<style scoped>
button {
  background: none;
  border: 0;
  padding: 0;
  font: inherit;
  color: inherit;
  cursor: pointer;
  white-space: nowrap;
}
button:hover {
  text-decoration: underline;
  text-underline-offset: 3px;
}
svg {
  margin-left: 4px;
}
</style>
