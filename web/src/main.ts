import { createPinia } from 'pinia'
import { createApp } from 'vue'
import 'vuetify/styles/core'
import './theme/base.css'
import App from './shell/App.vue'
import { router } from './shell/router'
import { vuetify } from './theme/vuetify'

createApp(App).use(createPinia()).use(router).use(vuetify).mount('#app')
