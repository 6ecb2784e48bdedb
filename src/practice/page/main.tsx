import './practice.css';
import { createRoot } from 'react-dom/client';
import { DeskPage } from './DeskPage.tsx';

createRoot(document.getElementById('desk')!).render(<DeskPage />);
