//! Mattes: each request is one thing that an artist does, and one edit.

use crate::app::App;
use crate::edited::Edited;
use crate::error::{Absent, ApiError, Refused};
use crate::intake;
use crate::screens::track::hands::follow_what_waits;
use crate::shot::facts;
use actix_web::{HttpResponse, web};
use parallax_core::spaces::{FrameNumber, PlatePx};
use parallax_core::track::FrameSource;
use parallax_core::track::matte::{ColourKey, Matte, MatteSource, OutlineKey, keyed, with_point};
use parallax_media::mattes;
use parallax_store::StoreError;
use serde::Deserialize;

type Answer = Result<HttpResponse, ApiError>;

/// What can be done with mattes.
#[derive(Deserialize)]
#[serde(tag = "do", rename_all = "snake_case", deny_unknown_fields)]
pub enum MatteDeed {
    /// Draws one, keyed on a frame.
    Draw {
        frame: i32,
        points: Vec<[f64; 2]>,
        name: Option<String>,
    },
    /// Keys an outline on a frame.
    Key {
        matte: u32,
        frame: i32,
        points: Vec<[f64; 2]>,
    },
    /// Adds a point behind another, on all keys.
    Point {
        matte: u32,
        frame: i32,
        after: usize,
        px: [f64; 2],
    },
    /// Removes a key; the last one stays.
    Unkey { matte: u32, frame: i32 },
    /// Adds the plate's alpha.
    Alpha {},
    /// Adds a colour key.
    Colour { key: Option<ColourKey> },
    /// Adds a sequence in a folder below the allowed one.
    Sequence { folder: String },
    /// Changes one.
    Set {
        matte: u32,
        name: Option<String>,
        invert: Option<bool>,
        feather_px: Option<f64>,
        off: Option<bool>,
        /// From and to; all frames for null, which is told from nothing said by `all_frames`.
        frames: Option<(i32, i32)>,
        all_frames: Option<bool>,
        key: Option<ColourKey>,
    },
    /// Removes one.
    Remove { matte: u32 },
}

fn no_matte(id: u32) -> StoreError {
    StoreError::Missing {
        what: "matte",
        id: i64::from(id),
    }
}

/// The matte of a number.
fn of_id(mattes: &mut [Matte], id: u32) -> Result<&mut Matte, StoreError> {
    mattes
        .iter_mut()
        .find(|m| m.id == id)
        .ok_or_else(|| no_matte(id))
}

/// The keys of a drawn matte.
fn drawn(mattes: &mut [Matte], id: u32) -> Result<&mut Vec<OutlineKey>, StoreError> {
    match of_id(mattes, id)? {
        Matte {
            source: MatteSource::Drawn { keys },
            ..
        } => Ok(keys),
        _ => Err(no_matte(id)),
    }
}

impl MatteDeed {
    fn label(&self) -> &'static str {
        match self {
            Self::Draw { .. } => "draw a matte",
            Self::Key { .. } => "key a matte",
            Self::Point { .. } => "add a point to a matte",
            Self::Unkey { .. } => "remove a key of a matte",
            Self::Alpha {} => "leave alpha out",
            Self::Colour { .. } => "key a colour",
            Self::Sequence { .. } => "add a matte sequence",
            Self::Set { .. } => "change a matte",
            Self::Remove { .. } => "remove a matte",
        }
    }

    fn done(&self, mattes: &mut Vec<Matte>) -> Result<(), StoreError> {
        Matte::numbered(mattes);
        self.changed(mattes)?;
        Matte::numbered(mattes);
        Ok(())
    }

    fn changed(&self, mattes: &mut Vec<Matte>) -> Result<(), StoreError> {
        let count = mattes.len();
        match self {
            Self::Draw {
                frame,
                points,
                name,
            } => {
                let keys = vec![OutlineKey {
                    frame: *frame,
                    points: points.clone(),
                }];
                let name = name
                    .clone()
                    .unwrap_or_else(|| format!("matte {}", count + 1));
                mattes.push(Matte::new(name, MatteSource::Drawn { keys }));
            }
            Self::Key {
                matte,
                frame,
                points,
            } => {
                let keys = drawn(mattes, *matte)?;
                *keys = keyed(keys, FrameNumber(*frame));
                keys.iter_mut()
                    .filter(|k| k.frame == *frame)
                    .for_each(|k| k.points.clone_from(points));
            }
            Self::Point {
                matte,
                frame,
                after,
                px,
            } => {
                let keys = drawn(mattes, *matte)?;
                *keys = with_point(
                    keys,
                    *after,
                    FrameNumber(*frame),
                    PlatePx::new(px[0], px[1]),
                );
            }
            Self::Unkey { matte, frame } => {
                let keys = drawn(mattes, *matte)?;
                if keys.len() > 1 {
                    keys.retain(|k| k.frame != *frame);
                }
            }
            Self::Alpha {} => mattes.push(Matte::new("alpha".to_owned(), MatteSource::Alpha)),
            Self::Colour { key } => {
                mattes.push(Matte::new(
                    "colour".to_owned(),
                    MatteSource::Colour(key.unwrap_or_default()),
                ));
            }
            Self::Sequence { folder } => {
                let name = folder.rsplit('/').next().unwrap_or("sequence").to_owned();
                mattes.push(Matte::new(
                    name,
                    MatteSource::Sequence {
                        folder: folder.clone(),
                    },
                ));
            }
            Self::Set {
                matte,
                name,
                invert,
                feather_px,
                off,
                frames,
                all_frames,
                key,
            } => {
                let m = of_id(mattes, *matte)?;
                m.name = name.clone().unwrap_or_else(|| m.name.clone());
                m.invert = invert.unwrap_or(m.invert);
                m.feather_px = feather_px.unwrap_or(m.feather_px);
                m.off = off.unwrap_or(m.off);
                m.frames = if *all_frames == Some(true) {
                    None
                } else {
                    frames.or(m.frames)
                };
                if let (Some(key), MatteSource::Colour(now)) = (key, &mut m.source) {
                    *now = *key;
                }
            }
            Self::Remove { matte } => {
                of_id(mattes, *matte)?;
                mattes.retain(|m| m.id != *matte);
            }
        }
        Ok(())
    }
}

/// Does something with mattes. They are opened before they are kept, so that one that does not fit the
/// plate changes nothing.
pub async fn change(
    app: web::Data<App>,
    shot: web::Path<i64>,
    deed: web::Json<MatteDeed>,
) -> Result<Edited, ApiError> {
    let mut deed = deed.into_inner();
    if let MatteDeed::Sequence { folder } = &mut deed {
        *folder = intake::below(app.config.plates.as_deref(), folder)?
            .display()
            .to_string();
    }
    let mut shot = app.store.shot(*shot).await?;
    let id = shot.id;
    deed.done(&mut shot.state.mattes)?;
    if let Some(error) = shot.state.mattes.iter().find_map(ApiError::of_matte) {
        return Err(error);
    }
    let files = app.files(&shot).await?;
    web::block(move || facts::followable(&shot, &files)).await??;
    app.store
        .edit(id, deed.label(), |state| {
            let mut next = state.clone();
            deed.done(&mut next.mattes)?;
            Ok(next)
        })
        .await?;
    follow_what_waits(&app, id).await?;
    Ok(Edited::of(id))
}

/// What mattes other than drawn ones leave out of a frame, as a picture: opaque where it is left out.
pub async fn mask(app: web::Data<App>, path: web::Path<(i64, i32)>) -> Answer {
    let (shot, frame) = path.into_inner();
    let mut shot = app.store.shot(shot).await?;
    shot.state
        .mattes
        .retain(|m| !matches!(m.source, MatteSource::Drawn { .. }));
    let files = app.files(&shot).await?;
    let made = web::block(move || -> Result<Vec<u8>, ApiError> {
        let plate = facts::followable(&shot, &files)?;
        let index = plate.frames().binary_search(&FrameNumber(frame));
        let index = index.map_err(|_| Absent::InRange(frame))?;
        let (_, mask) = plate.look(index).map_err(Refused::Look)?;
        Ok(mattes::coded(
            mask.as_ref(),
            (shot.width_px, shot.height_px),
        )?)
    });
    let made = made.await??;
    Ok(HttpResponse::Ok()
        .content_type("image/png")
        .insert_header(("cache-control", "no-store"))
        .body(made))
}
