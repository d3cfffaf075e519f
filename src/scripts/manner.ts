import { mannerOf, writeIn } from '../../core/manner';

// Runs before any island is hydrated, so that it says the same as the server did.
writeIn(mannerOf(document.documentElement.dataset.manner ?? ''));
