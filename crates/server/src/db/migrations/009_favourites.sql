-- Favourites among what the cabinet shows and doesn't keep: ready finishes, palettes and pictures of projects, by what the page knows them by.
CREATE TABLE favourites (
    thing TEXT PRIMARY KEY
);
