//! Why a change of a shot is refused, as causes with data.

use parallax_core::solve::on_demand::NoPlace;
use parallax_core::track::TrackError;

/// A value that cannot be, or a change that makes no sense. Nothing was changed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum Invalid {
    /// Not an object where members are changed.
    #[error(
        "a change names members and their values, like {{\"grid_m\": 0.5}}; {at} is no such thing"
    )]
    NotMembers {
        /// Where.
        at: String,
    },
    /// A member that does not exist.
    #[error("there is nothing called `{at}`")]
    Unknown {
        /// Where.
        at: String,
    },
    /// A member that results set, or requests of their own that check them.
    #[error("`{name}` is set by the work itself or by a request of its own")]
    NotByHand {
        /// Which.
        name: &'static str,
    },
    /// A value of the wrong kind.
    #[error("`{at}` cannot be {value}")]
    Value {
        /// Where.
        at: String,
        /// The value, shortened.
        value: String,
    },
    /// A list that is replaced by someone who does not say what he saw.
    #[error(
        "`{at}` is a list: state the number of the edit that you build on (`on`), so that nobody's change is overwritten"
    )]
    ListWithoutNumber {
        /// Where.
        at: &'static str,
    },
    /// A thing that is to be changed, without the id that tells which; or no thing at all.
    #[error("a thing of `{at}` has members, and `id` where one is changed")]
    NoId {
        /// The list.
        at: &'static str,
    },
    /// A film back too small or too large.
    #[error("a film back has sides of 0.5 to 500 mm")]
    FilmBack,
    /// A focal length too short or too long.
    #[error("a focal length lies between 1 and 5000 mm; {mm} was given")]
    Focal {
        /// What was given, mm.
        mm: f64,
    },
    /// A standard error that is none.
    #[error(
        "a focal length is not known to {sigma_mm} mm: state it as 35 ± 1, or without an error"
    )]
    FocalError {
        /// What was given, mm.
        sigma_mm: f64,
    },
    /// A start in one frame.
    #[error("a solve starts from two frames, the earlier first; {first} and {last} are none")]
    Start {
        /// The first.
        first: i32,
        /// The last.
        last: i32,
    },
    /// A camera that is too steady or not at all.
    #[error(
        "how much the camera's speed changes lies between 0.0001 and 100 000 mm or degrees per frame"
    )]
    Steadiness,
    /// A statement that cannot be.
    #[error(
        "a statement about the world names different features and marks, lengths between a thousandth of a mm and 1000 km, and errors greater than 0"
    )]
    Statement,
    /// Too many of them.
    #[error("a shot holds 200 statements about its world; remove some first")]
    ManyStatements,
    /// Statements of a world that is locked.
    #[error("the world is locked, so that it is not moved by accident; unlock it first")]
    WorldLocked,
    /// A length or plane that is none.
    #[error(
        "a length needs two features and metres, a plane four features or more; standard errors are from a thousandth of a mm on"
    )]
    Constraint,
    /// More lengths and planes than are kept.
    #[error("a shot has 500 known lengths and planes at most")]
    ManyConstraints,
    /// A surveyed point that is none.
    #[error(
        "the surveyed point {name} needs a name, one coordinate within 1000 km at least, and standard errors from a thousandth of a mm on"
    )]
    Survey {
        /// What it is called.
        name: String,
    },
    /// A file that is no survey.
    #[error("{0}")]
    SurveyFile(String),
    /// More points than are kept.
    #[error("a survey of more than 2000 points is not kept; leave out those that no feature shows")]
    LongSurvey,
    /// A range that ends before it begins.
    #[error("the in point {first} lies after the out point {last}")]
    RangeBackwards {
        /// In.
        first: i32,
        /// Out.
        last: i32,
    },
    /// A range that leaves the plate.
    #[error(
        "the plate has frames {}–{}; in and out lie within them, not at {}–{}",
        plate.0, plate.1, range.0, range.1
    )]
    RangeOutside {
        /// In and out.
        range: (i32, i32),
        /// First and last frame of the plate.
        plate: (i32, i32),
    },
    /// The last key of a hand track is to go.
    #[error("this is its only key, and a hand track without one is none; remove the track instead")]
    OnlyKey,
    /// A grid too fine or too coarse.
    #[error("a square of the grid has 0.001 to 1000 m")]
    Grid,
    /// A first number beyond what files are numbered by.
    #[error("deliveries are numbered from -1000000 to 10000000")]
    Numbering,
    /// A limit that lets nothing pass.
    #[error("the limit has to be greater than 0 px")]
    Limit,
    /// A read-out time that no sensor has.
    #[error(
        "the read-out time has to be between 0 and 200 ms; 0 is a shutter that exposes all rows at once"
    )]
    Readout,
    /// A guest that cannot be.
    #[error(
        "a guest has a name of 1 to 80 letters, sides of 0.001 to 1000 m, and keys on ascending frames"
    )]
    Guest,
    /// Too many guests.
    #[error("a shot has at most 200 guests")]
    ManyGuests,
    /// A recipe that is none.
    #[error(
        "a recipe has a name, names of files of at most 80 letters, a scale between 0.0001 and 10000 and a note of at most 4000 letters"
    )]
    Recipe,
    /// Too many recipes.
    #[error("a shot has at most 50 recipes")]
    ManyRecipes,
    /// A movie that cannot be made so.
    #[error("a movie is drawn with 1 to 100 rays a px")]
    Movie,
    /// A light or a shutter that cannot be.
    #[error(
        "the sun stands 0 to 90 degrees above level, it and the sky are of a strength of 0 to 20, and a shutter is open for 0 to 360 degrees"
    )]
    Light,
    /// A weight out of range.
    #[error("a weight lies between 0 and 100")]
    Weight,
    /// A name that is too long, empty, or no text.
    #[error("a name has 1 to {most} letters and no control characters")]
    Name {
        /// Most letters.
        most: usize,
    },
    /// Too many of something.
    #[error("{most} {what} are kept at most; remove one first")]
    TooMany {
        /// Of what.
        what: &'static str,
        /// How many there may be.
        most: i64,
    },
    /// Nothing of this name.
    #[error("there is no {what} called {name}")]
    NoSuchName {
        /// What was asked for.
        what: &'static str,
        /// Its name.
        name: String,
    },
    /// A lens that cannot be.
    #[error("{0}")]
    Lens(String),
    /// Something laid on a photograph that cannot be.
    #[error("{0}")]
    Photo(String),
    /// A picture adjustment that cannot be.
    #[error("{0}")]
    Adjustment(&'static str),
    /// A matte that cannot be.
    #[error("{0}")]
    Matte(String),
    /// Controls of following out of range.
    #[error("{0}")]
    Following(String),
    /// A hand track that cannot be.
    #[error("{0}")]
    Hand(String),
    /// A detail whose place is not known, so that nothing predicts where it is.
    #[error("it has no place that could lead it: {0}")]
    NoPlace(#[from] NoPlace),
    /// A file of tracks that cannot be read, or of which nothing can be placed.
    #[error("{0}")]
    Tracks(String),
    /// Something that is locked.
    #[error("the track is locked; unlock it first")]
    Locked,
    /// Other tracks than those that were worked on.
    #[error("the tracks were followed anew or changed meanwhile; do it again")]
    OtherTracks,
    /// A word that was kept and means nothing.
    #[error("`{word}` is not a kept {what}")]
    Word {
        /// The word.
        word: String,
        /// What it should be.
        what: &'static str,
    },
    /// The state itself is damaged.
    #[error(
        "what is kept of this shot is damaged, so it cannot be changed, and nothing was; go on with what can be read of it, or restore the project from a copy"
    )]
    Damaged,
}

impl From<TrackError> for Invalid {
    fn from(error: TrackError) -> Self {
        Self::Following(error.to_string())
    }
}
