/** Where people of the college reach Quernhold: what its pages call themselves by. */
export const HOME = 'https://courses.marrowick.example';
/** Files that many courses use lie below this, each under its path. */
export const REPOSITORY = `${HOME}/repository`;
