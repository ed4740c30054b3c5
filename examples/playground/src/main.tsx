import { createRoot } from 'react-dom/client';
import { App } from './App.js';
import './style.css';

const root = document.getElementById('root');
if (root === null) throw new Error('The page has no root');
createRoot(root).render(<App />);
