import '@fontsource/ibm-plex-sans/latin-400.css'
import '@fontsource/ibm-plex-sans/latin-ext-400.css'
import '@fontsource/ibm-plex-sans/latin-600.css'
import './shown.css'

import { createApp } from 'vue'

import ShownPage from './ShownPage.vue'

// What a client sees: a page of its own, small, that knows nothing of the rest.
createApp(ShownPage).mount('#app')
