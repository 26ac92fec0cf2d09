import { createRouter, createWebHistory } from 'vue-router'

import StudyFrame from './frame/StudyFrame.vue'
import { STOPS } from './frame/stops'
import StudyList from './stops/studies/StudyList.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: StudyList, name: 'studies' },
    {
      path: '/study/:study',
      component: StudyFrame,
      props: true,
      children: [
        ...STOPS.map((stop) => ({ path: stop.path, name: stop.name, component: stop.component })),
        { path: 'records/key', name: 'key', component: () => import('@/stops/keying/KeyingStop.vue') },
        { path: 'records/keyings', name: 'keyings', component: () => import('@/stops/keyings/KeyingsStop.vue') },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
