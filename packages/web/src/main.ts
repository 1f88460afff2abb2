import '@fontsource/source-sans-3/400.css'
import '@fontsource/source-sans-3/600.css'
import '@fontsource/source-sans-3/700.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './shell/router.ts'
import './shell/base.css'
import './shell/sheets.css'
import './shell/asks.css'
import { vuetify } from './shell/theme.ts'

createApp(App).use(createPinia()).use(router).use(vuetify).mount('#app')
