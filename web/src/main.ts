import '@fontsource-variable/figtree'
import '@fontsource-variable/noto-sans'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import '@fontsource-variable/literata'
import 'vuetify/styles'
import './styles.css'

import { createPinia } from 'pinia'
import { createApp } from 'vue'

import App from './App.vue'
import { router } from './router'
import { vuetify } from './vuetify'

createApp(App).use(createPinia()).use(router).use(vuetify).mount('#app')
