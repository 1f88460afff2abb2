<script setup lang="ts">
import { count } from '../figures/format.ts'

/** The last look before documents leave for the ledger. */
defineProps<{ shown: boolean; documents: number }>()
defineEmits<{ cancel: []; post: [] }>()
</script>

<template>
  <v-dialog
    :model-value="shown"
    max-width="480"
    aria-label="Post documents"
    @update:model-value="$emit('cancel')"
  >
    <div class="dialog">
      <h2>Post {{ count(documents, 'document') }}</h2>
      <p>
        Each is composed once more from what is agreed now, then sent to the ledger. What the ledger refuses
        stays here with its reason; nothing is sent twice.
      </p>
      <div class="actions">
        <button type="button" class="do first" autofocus data-confirm @click="$emit('post')">
          Post {{ count(documents, 'document') }}
        </button>
        <button type="button" class="do" @click="$emit('cancel')">Not now</button>
      </div>
    </div>
  </v-dialog>
</template>
