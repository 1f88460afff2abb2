<script setup lang="ts">
import { useTheme } from 'vuetify'
import { watchEffect } from 'vue'
import { useSession } from './shell/session.ts'

const session = useSession()
const theme = useTheme()
watchEffect(() => {
  theme.change(session.theme)
  document.documentElement.dataset['theme'] = session.theme
})
</script>

<template>
  <v-app>
    <RouterView />
  </v-app>
</template>
