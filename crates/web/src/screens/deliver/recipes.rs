//! Recipes of a shot with what was delivered by them, and how they come from another shot.

use super::package::delivery_inputs;
use crate::app::App;
use crate::edited::Edited;
use crate::error::ApiError;
use crate::said::rose::Rose;
use crate::screens::photo;
use crate::shot::facts;
use actix_web::web;
use parallax_formats::delivery::{Names, Recipe};
use parallax_formats::format::FormatKind;
use parallax_formats::receipt::Receipt;
use parallax_store::deliveries::KeptDelivery;
use parallax_store::shots::Shot;
use parallax_store::things::Thing;
use serde::Serialize;
use std::collections::BTreeMap;

/// A recipe as the page shows it, besides what it is.
#[derive(Serialize)]
pub struct RecipeRow {
    id: u32,
    /// Where the shot's directions point at its receiver.
    rose: Rose,
    /// What a file of it will be called.
    example: String,
    /// Its latest delivery.
    made: Option<MadeRow>,
}

/// A delivery as the page shows it.
#[derive(Serialize)]
pub struct MadeRow {
    delivery: i64,
    version: i64,
    name: String,
    changed: String,
    folder: String,
    made: String,
    stale: bool,
    receipt: Option<Receipt>,
}

/// A format that can be chosen.
#[derive(Serialize)]
pub struct FormatRow {
    key: FormatKind,
    title: &'static str,
}

/// What a delivery by a recipe depends on, of footage or a photograph.
pub fn inputs(shot: &Shot, recipe: &Recipe) -> String {
    match facts::is_photograph(shot) {
        true => photo::package::delivery_inputs(shot, recipe),
        false => delivery_inputs(shot, recipe),
    }
}

/// All formats, in the order in which they are offered.
pub fn formats() -> Vec<FormatRow> {
    let row = |key: &FormatKind| FormatRow {
        key: *key,
        title: key.title(),
    };
    FormatKind::ALL.iter().map(row).collect()
}

/// The rows of a shot's recipes.
pub fn rows(shot: &Shot, delivered: &BTreeMap<u32, KeptDelivery>) -> Vec<RecipeRow> {
    let row = |recipe: &Thing<Recipe>| {
        let made = delivered.get(&recipe.id);
        let version = made.map_or(1, |m| m.version + 1);
        let version = u32::try_from(version).unwrap_or(1);
        let names = Names::of(&recipe.names, &shot.name, &recipe.name, version);
        RecipeRow {
            id: recipe.id,
            rose: Rose::of(recipe.receiver),
            example: names.named("scene.usda"),
            made: made.map(|m| MadeRow {
                delivery: m.id,
                version: m.version,
                name: m.name.clone(),
                changed: m.changed.clone(),
                folder: m.folder.clone(),
                made: m.made.clone(),
                stale: m.inputs != inputs(shot, &recipe.it),
                receipt: serde_json::from_str(&m.receipt).ok(),
            }),
        }
    };
    shot.state.recipes.iter().map(row).collect()
}

impl RecipeRow {
    /// Its delivery.
    pub fn made(&self) -> Option<&MadeRow> {
        self.made.as_ref()
    }
}

impl MadeRow {
    /// Whether something changed since.
    pub fn is_stale(&self) -> bool {
        self.stale
    }

    /// Its receipt, where it can be read.
    pub fn receipt(&self) -> Option<&Receipt> {
        self.receipt.as_ref()
    }
}

/// Whether a recipe is another one, but for a number that its name got when it was taken.
fn is_taken_from(own: &Recipe, other: &Recipe) -> bool {
    let number = own.name.strip_prefix(&other.name);
    let numbered = number.is_some_and(|n| n.trim().parse::<u32>().is_ok() || n.is_empty());
    let name = own.name.clone();
    numbered
        && *own
            == Recipe {
                name,
                ..other.clone()
            }
}

/// A name that no recipe has, with a number where it is taken.
fn untaken(name: &str, all: &[Thing<Recipe>]) -> String {
    let numbered = |k: u32| match k {
        1 => name.to_owned(),
        k => format!("{name} {k}"),
    };
    let free = |name: &String| all.iter().all(|r| r.name != *name);
    (1..).map(numbered).find(free).unwrap_or_default()
}

/// Takes the recipes of another shot that this one does not have, as one edit.
pub async fn copy(app: web::Data<App>, path: web::Path<(i64, i64)>) -> Result<Edited, ApiError> {
    let (to, from) = path.into_inner();
    let other = app.store.shot(from).await?;
    app.store
        .edit(to, "take recipes from another shot", |state| {
            let mut next = state.clone();
            let own = next.recipes.plain();
            let mut all: Vec<Thing<Recipe>> = next.recipes.to_vec();
            for mut it in other.state.recipes.plain() {
                if own.iter().any(|r| is_taken_from(r, &it)) {
                    continue;
                }
                it.name = untaken(&it.name, &all);
                let highest = all.iter().map(|r| r.id).max().unwrap_or(0);
                let id = next.next_thing.max(highest.saturating_add(1));
                next.next_thing = id.saturating_add(1);
                all.push(Thing { id, it });
            }
            next.recipes = all.into();
            next.checked_taken_in()
        })
        .await?;
    Ok(Edited::of(to))
}
