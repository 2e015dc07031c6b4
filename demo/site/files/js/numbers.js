export const euros = new Intl.NumberFormat('en', { style: 'currency', currency: 'EUR' });
export const metres = (value) => `${value} m`;
