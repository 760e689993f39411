import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import './app.css';
import { theme } from './draw/theme';
import { Shell } from './frame/Shell';

theme.open();
const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: 1 } } });
const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <Shell />
      </QueryClientProvider>
    </StrictMode>,
  );
}
