/** A seed for something new: what it draws follows from the seed alone. */
export const randomSeed = (): number => Math.floor(Math.random() * 2 ** 32);
