import "@fontsource/atkinson-hyperlegible/400.css";
import "@fontsource/atkinson-hyperlegible/700.css";
import "primeicons/primeicons.css";
import "./styles.css";
import { createPinia } from "pinia";
import PrimeVue from "primevue/config";
import ToastService from "primevue/toastservice";
import { createApp } from "vue";
import App from "./App.vue";
import { Kit } from "./audio/kit";
import { Pieces } from "./audio/pieces";
import { Recording } from "./audio/recording";
import { router } from "./router";
import { preset } from "./theme";

// The sound of the page as the tests render it, sample by sample, without a loudspeaker.
Object.assign(window, { orchesisSound: { Kit, Pieces, Recording } });

createApp(App)
  .use(createPinia())
  .use(router)
  .use(PrimeVue, { theme: { preset, options: { darkModeSelector: ".dark" } } })
  .use(ToastService)
  .mount("#app");
