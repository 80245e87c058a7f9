import '@fontsource/ibm-plex-sans/latin-400.css'
import '@fontsource/ibm-plex-sans/latin-ext-400.css'
import '@fontsource/ibm-plex-sans/latin-500.css'
import '@fontsource/ibm-plex-sans/latin-600.css'
import './parts/reset.css'
import 'vuetify/styles'
import './parts/style.css'

import { VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import { createApp } from 'vue'

import App from './App.vue'
import { queryClient } from './api/queries'
import { router } from './router'
import { vuetify } from './parts/theme'

createApp(App)
  // What has just been opened to be typed in.
  .directive('focus', {
    mounted: (field: HTMLInputElement) => {
      field.focus()
      field.select()
    },
  })
  .use(createPinia())
  .use(router)
  .use(vuetify)
  .use(VueQueryPlugin, { queryClient })
  .mount('#app')
