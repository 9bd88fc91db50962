/** Going to a station from outside of components. */
let navigate: (path: string) => void = () => undefined;

/** Called by what holds the router. */
export const setNavigate = (go: (path: string) => void): void => {
  navigate = go;
};

export const goTo = (montage: string, station: string): void => navigate(`/montage/${montage}/${station}`);
