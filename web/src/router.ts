import { createRouter, createWebHistory } from 'vue-router'

const bench = () => import('./bench/Bench.vue')

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./pages/JobsShelf.vue') },
    { path: '/jobs/:jobId', name: 'job', component: () => import('./pages/JobView.vue'), props: true },
    { path: '/jobs/:jobId/clips/:clipId', name: 'clip', component: () => import('./pages/ClipView.vue'), props: true },
    { path: '/deliveries', name: 'deliveries', component: () => import('./pages/DeliveriesPage.vue') },
    { path: '/cards', name: 'cards', component: () => import('./pages/CardsPage.vue') },
    { path: '/settings', name: 'settings', component: () => import('./pages/SettingsPage.vue') },
    { path: '/engines', name: 'engines', component: () => import('./pages/EngineShelf.vue') },
    {
      path: '/jobs/:jobId/pictures/:pictureId/:takeId?',
      name: 'bench',
      component: bench,
      props: true,
    },
    { path: '/:any(.*)*', redirect: '/' },
  ],
})

// From a job people go on to the bench: it is fetched while nothing else is to be done.
router.afterEach(({ name }) => {
  if (name === 'job') (window.requestIdleCallback ?? setTimeout)(() => void bench())
})
