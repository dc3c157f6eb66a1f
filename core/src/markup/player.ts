/** How pages name the player that Treenail writes: by this attribute, and by where it lies. */
export const PLAYER_MARK = 'data-treenail';
export const PLAYER_PATH = /(^|\/)play\/(runtime|course)(-\d+)?\.js$/;
