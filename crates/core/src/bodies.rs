//! Film backs by their trade names, to begin with where nobody keeps bodies of their own yet.
//!
//! Sides in mm of the exposed area, as the formats are defined; a body may use less of it.

use crate::plate::FilmBack;

/// Name and film back of the common formats, largest first.
pub const FORMATS: [(&str, FilmBack); 11] = [
    ("65 mm film, 5 perforations", back(52.63, 23.01)),
    ("full frame", back(36.0, 24.0)),
    ("Super 35 film, 4 perforations", back(24.89, 18.66)),
    ("Super 35 film, 3 perforations", back(24.89, 13.87)),
    ("APS-C", back(23.6, 15.7)),
    ("35 mm film, sound aperture", back(21.95, 16.0)),
    ("4/3 inch sensor", back(17.3, 13.0)),
    ("1 inch sensor", back(13.2, 8.8)),
    ("Super 16 film", back(12.52, 7.41)),
    ("2/3 inch sensor", back(8.8, 6.6)),
    ("1/2.3 inch sensor", back(6.17, 4.55)),
];

const fn back(width_mm: f64, height_mm: f64) -> FilmBack {
    FilmBack {
        width_mm,
        height_mm,
    }
}
