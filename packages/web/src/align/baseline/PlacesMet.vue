<script setup lang="ts">
import type { PlacesMet } from '@axion/contract'
import { count } from '../../figures/format.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useView } from '../../shell/useView.ts'

/** Places that sales went to, of which it is open in which jurisdiction they lie. */
const { view, refused } = useView<PlacesMet>(() => '/baseline/places-met')
</script>

<template>
  <RefusedNote :refused="refused" />
  <details v-if="view && view.open.length > 0" class="note bad" data-places-met>
    <summary>
      {{ count(view.open.length + view.more, 'place') }} that sales went to
      {{ view.open.length + view.more === 1 ? 'lies' : 'lie' }} in no jurisdiction, or in more than one of a
      level
    </summary>
    <ul>
      <li v-for="one in view.open" :key="one.says">
        {{ one.says }} <span class="soft">{{ count(one.documents, 'document') }}</span>
      </li>
    </ul>
    <p class="soft">
      <template v-if="view.more > 0">And {{ view.more }} more. </template>Looked for in
      {{
        view.of > view.documents
          ? `the newest ${view.documents} of ${view.of} documents`
          : count(view.documents, 'document')
      }}.
    </p>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
}
ul {
  margin: 6px 0 0 18px;
  max-height: 130px;
  overflow: auto;
}
</style>
