//! The API as OpenAPI 3.1: the routes that are registered, what `docs/api.md` says of each, and the shape of a shot's
//! state and of recipes as the code writes them.

use actix_web::HttpResponse;
use parallax_formats::delivery::Recipe;
use parallax_store::ShotState;
use serde_json::{Map, Value, json};
use std::collections::BTreeMap;

/// What every route is described in; a test holds it against the routes.
const TEXT: &str = include_str!("../../../../docs/api.md");

/// Members of paths that are no numbers.
const WORDS: [&str; 2] = ["name", "file"];

/// The description of the API.
pub async fn api() -> HttpResponse {
    HttpResponse::Ok().json(document())
}

/// The description as JSON.
pub fn document() -> Value {
    let said = described();
    let mut paths: BTreeMap<&str, Map<String, Value>> = BTreeMap::new();
    for route in super::routes() {
        let text = said.get(&(route.method, route.path)).copied();
        let operation = operation(route.method, route.path, text.unwrap_or_default());
        let method = route.method.to_lowercase();
        paths
            .entry(route.path)
            .or_default()
            .insert(method, operation);
    }
    let state = serde_json::to_value(ShotState::new(1280, 720)).unwrap_or_default();
    let recipe = Recipe::usual().into_iter().next();
    let recipe = serde_json::to_value(recipe).unwrap_or_default();
    json!({
        "openapi": "3.1.0",
        "info": {
            "title": "True Parallax", "version": env!("CARGO_PKG_VERSION"),
            "description": TEXT.split("\n\n").nth(1).unwrap_or_default().replace('\n', " "),
            "license": { "name": "MIT", "identifier": "MIT" },
        },
        "paths": paths,
        "components": {
            "schemas": {
                "Error": {
                    "type": "object", "required": ["error"],
                    "properties": { "error": { "type": "string", "description": "one sentence" } },
                },
                "State": shape(&state),
                "Recipe": shape(&recipe),
            },
            "examples": { "state": { "value": state }, "recipe": { "value": recipe } },
        },
    })
}

/// What the table of the page says, by method and path.
fn described() -> BTreeMap<(&'static str, &'static str), &'static str> {
    let row = |line: &'static str| {
        let (route, said) = line.strip_prefix("| `")?.split_once("` | ")?;
        Some((route.split_once(' ')?, said.strip_suffix(" |")?))
    };
    TEXT.lines().filter_map(row).collect()
}

fn operation(method: &str, path: &str, said: &str) -> Value {
    let words = path
        .split(['/', '{', '}', '.', '-'])
        .filter(|w| !w.is_empty() && *w != "api");
    let id: Vec<&str> = words.collect();
    let mut parameters: Vec<Value> = members(path)
        .map(|name| {
            let kind = if WORDS.contains(&name) {
                "string"
            } else {
                "integer"
            };
            json!({ "name": name, "in": "path", "required": true, "schema": { "type": kind } })
        })
        .collect();
    parameters.extend(asked(said).into_iter().map(|(name, example)| {
        json!({ "name": name, "in": "query", "schema": { "type": "string" }, "example": example })
    }));
    let (status, content) = match answer(said) {
        Some((status, example)) => (
            status,
            json!({ "application/json": { "schema": shape(&example), "example": example } }),
        ),
        None => ("200".to_owned(), json!({ "*/*": {} })),
    };
    let mut out = json!({
        "operationId": format!("{}_{}", method.to_lowercase(), id.join("_")),
        "summary": summary(said), "description": said, "parameters": parameters,
        "responses": {
            status: { "description": "done", "content": content },
            "default": {
                "description": "refused or failed",
                "content": { "application/json": { "schema": { "$ref": "#/components/schemas/Error" } } },
            },
        },
    });
    let examples = examples(said);
    if let Some(first) = examples.first().filter(|_| method == "POST") {
        let shapes = examples.iter().map(shape).reduce(both);
        out["requestBody"] =
            json!({ "content": { "application/json": { "schema": shapes, "example": first } } });
    }
    out
}

fn members(path: &str) -> impl Iterator<Item = &str> {
    path.split('{')
        .skip(1)
        .filter_map(|rest| rest.split_once('}').map(|m| m.0))
}

/// The text up to its first stop, without the marks of the page.
fn summary(said: &str) -> String {
    let plain = said.replace(['`', '*'], "");
    let end = plain.find([';', '(']).unwrap_or(plain.len());
    plain
        .chars()
        .take(end.min(160))
        .collect::<String>()
        .trim()
        .to_owned()
}

/// What stands between backticks.
fn quoted(said: &str) -> impl Iterator<Item = &str> {
    said.split('`').skip(1).step_by(2)
}

/// The bodies that the page shows, where they are JSON as they stand.
fn examples(said: &str) -> Vec<Value> {
    let bodies = quoted(said).filter(|q| q.starts_with('{'));
    bodies
        .filter_map(|q| serde_json::from_str(q).ok())
        .collect()
}

/// A status with the answer that the page shows.
fn answer(said: &str) -> Option<(String, Value)> {
    let shown = quoted(said).find_map(|q| q.split_once(' ').filter(|(s, _)| is_status(s)))?;
    Some((shown.0.to_owned(), serde_json::from_str(shown.1).ok()?))
}

fn is_status(text: &str) -> bool {
    text.len() == 3 && text.starts_with('2') && text.bytes().all(|b| b.is_ascii_digit())
}

/// What can be asked with, by name, with the value that the page shows.
fn asked(said: &str) -> BTreeMap<String, String> {
    let queries = quoted(said).filter(|q| q.starts_with(['?', '&']));
    let pairs = queries.flat_map(|q| q[1..].split('&'));
    pairs
        .filter_map(|pair| pair.split_once('='))
        .map(|(name, value)| (name.to_owned(), value.to_owned()))
        .collect()
}

/// A shape that holds what either of two does: members that both have in different shapes may be anything.
fn both(one: Value, other: Value) -> Value {
    if one == other {
        return one;
    }
    let (Some(a), Some(b)) = (
        one["properties"].as_object(),
        other["properties"].as_object(),
    ) else {
        return json!({});
    };
    let mut members = a.clone();
    for (name, shape) in b {
        let merged = match members.remove(name) {
            Some(known) => both(known, shape.clone()),
            None => shape.clone(),
        };
        members.insert(name.clone(), merged);
    }
    json!({ "type": "object", "properties": members })
}

/// The shape of a value as it is written.
fn shape(value: &Value) -> Value {
    match value {
        Value::Null => json!({}),
        Value::Bool(_) => json!({ "type": "boolean" }),
        Value::Number(n) if n.is_f64() => json!({ "type": "number" }),
        Value::Number(_) => json!({ "type": ["integer", "number"] }),
        Value::String(_) => json!({ "type": "string" }),
        Value::Array(all) => {
            let items = all.iter().map(shape).reduce(both).unwrap_or(json!({}));
            json!({ "type": "array", "items": items })
        }
        Value::Object(all) => {
            let members: Map<String, Value> =
                all.iter().map(|(k, v)| (k.clone(), shape(v))).collect();
            json!({ "type": "object", "properties": members })
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn every_route_is_in_it_once_with_what_its_path_names() {
        let document = document();
        let paths = document["paths"].as_object().unwrap();
        let mut ids = HashSet::new();
        let mut count = 0;
        for (path, methods) in paths {
            for operation in methods.as_object().unwrap().values() {
                count += 1;
                assert!(
                    ids.insert(operation["operationId"].to_string()),
                    "{operation}"
                );
                assert!(
                    !operation["description"].as_str().unwrap().is_empty(),
                    "{path}"
                );
                let named = operation["parameters"].as_array().unwrap();
                for member in members(path) {
                    assert!(
                        named
                            .iter()
                            .any(|p| p["name"] == member && p["in"] == "path")
                    );
                }
            }
        }
        assert_eq!(count, super::super::routes().len());
    }

    #[test]
    fn shapes_hold_every_value_that_they_are_of() {
        let of = |text: &str| shape(&serde_json::from_str(text).unwrap());
        assert_eq!(of("[1, 2]")["items"]["type"], json!(["integer", "number"]));
        assert_eq!(of("[1, \"a\"]")["items"], json!({}), "of both kinds");
        let objects = of("[{\"a\": 1}, {\"a\": \"x\", \"b\": true}]");
        let members = &objects["items"]["properties"];
        assert_eq!(members["a"], json!({}));
        assert_eq!(members["b"]["type"], "boolean");
        assert_eq!(of("null"), json!({}), "nothing is known of it");
    }

    #[test]
    fn examples_and_queries_are_those_of_the_page() {
        let document = document();
        let jobs = &document["paths"]["/api/shots/{shot}/jobs"]["post"];
        let body = &jobs["requestBody"]["content"]["application/json"]["example"];
        assert_eq!(body["kind"], "track");
        let shaped = &jobs["requestBody"]["content"]["application/json"]["schema"];
        assert_eq!(shaped["properties"]["kind"]["type"], "string");
        assert_eq!(
            jobs["responses"]["202"]["content"]["application/json"]["example"]["job"],
            7
        );
        let slip = &document["paths"]["/api/shots/{shot}/slip/field"]["get"]["parameters"];
        let names: Vec<&str> = slip
            .as_array()
            .unwrap()
            .iter()
            .map(|p| p["name"].as_str().unwrap())
            .collect();
        assert_eq!(names, ["shot", "distance", "frame", "track"]);
        let state = &document["components"]["schemas"]["State"]["properties"];
        assert_eq!(state["grid_m"]["type"], "number");
        assert_eq!(
            state["recipes"]["items"]["properties"]["formats"]["type"],
            "array"
        );
    }
}
