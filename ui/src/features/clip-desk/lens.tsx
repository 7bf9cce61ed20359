export const lens = 132; // px across

export const lensZoom = 4;
