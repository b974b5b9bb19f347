import "@fontsource-variable/source-code-pro";
import "@fontsource-variable/source-sans-3";
import "@mantine/core/styles.css";
import "@mantine/notifications/styles.css";
import "./styles.css";

import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { App } from "./App";
import { queries } from "./api/queries";
import { theme } from "./theme";

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <MantineProvider theme={theme} defaultColorScheme="light">
        <QueryClientProvider client={queries}>
          <Notifications position="bottom-left" limit={4} />
          <App />
        </QueryClientProvider>
      </MantineProvider>
    </StrictMode>,
  );
}
