import { definePreset } from "@primeuix/themes";
import Aura from "@primeuix/themes/aura";

/** PrimeVue in our colours: deep teal on warm paper. */
export const preset = definePreset(Aura, {
  semantic: {
    colorScheme: {
      light: {
        surface: {
          0: "#ffffff", 50: "#fbf8f1", 100: "#f1ece0", 200: "#e2dccd", 300: "#c9c1ad", 400: "#a39b89",
          500: "#737b8c", 600: "#4b5468", 700: "#343c4d", 800: "#252c3b", 900: "#1e2533", 950: "#12161f",
        },
      },
    },
    primary: {
      50: "#eef8f6", 100: "#d3ece8", 200: "#a8d9d2", 300: "#74bfb6", 400: "#3f9f96",
      500: "#0b7a75", 600: "#0a6d69", 700: "#085a57", 800: "#074745", 900: "#063a38", 950: "#032220",
    },
  },
});
