import '@fontsource-variable/figtree'
import '@fontsource-variable/noto-sans'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import '@fontsource-variable/literata'
import 'vuetify/styles'
import './styles.css'

import { VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import { createApp } from 'vue'

import { whenAnswered } from './api/client'
import App from './App.vue'
import { router } from './router'
import { cache } from './study/cache'
import { answered, complain, hearOfErrors } from './study/notices'
import { vuetify } from './vuetify'

hearOfErrors()
whenAnswered(answered)
const app = createApp(App)
app.config.errorHandler = (error) => {
  console.error(error)
  complain(error)
}
app.use(createPinia()).use(VueQueryPlugin, { queryClient: cache }).use(router).use(vuetify).mount('#app')
