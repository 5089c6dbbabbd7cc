//! Bodies of a layer: a transform on every frame each, with their landmarks below it in their own space.

use super::text::{Lines, array, quoted, tuple};
use super::{Writing, extent, guests};
use crate::delivery::MovingBody;
use parallax_core::camera::Similarity;

/// How wide a landmark is drawn, of the body's reach.
const WIDE: f32 = 0.02;

pub fn write(lines: &mut Lines, writing: &Writing<'_>) {
    let all = &writing.delivery.bodies;
    if all.is_empty() {
        return;
    }
    lines.prim("Xform", "bodies", &[], |lines| {
        for (index, body) in all.iter().enumerate() {
            let metadata = [("displayName", quoted(&body.name))];
            let name = format!("body_{}", index + 1);
            lines.prim("Xform", &name, &metadata, |lines| {
                lines.set("custom string label", quoted(&body.name));
                lines.set("custom string distanceBy", quoted(&body.distance_by));
                let seen = body.seen.map(|f| f.0);
                lines.set("custom int2 seen", tuple(&seen));
                guests::place(lines, writing, &Similarity::identity(), &body.moves);
                lines.prim("Points", "landmarks", &[], |lines| points(lines, body));
            });
        }
    });
}

fn points(lines: &mut Lines, body: &MovingBody) {
    // As 32 bits hold them, so that the bounds are those of what is kept.
    let places: Vec<[f32; 3]> = body
        .points
        .iter()
        .map(|p| [0, 1, 2].map(|k| p.place.0[k] as f32))
        .collect();
    let reach = places.iter().flatten().fold(0.0f32, |r, v| r.max(v.abs()));
    let wide = (WIDE * reach).max(f32::MIN_POSITIVE);
    lines.set("point3f[] points", array(places.iter().map(|p| tuple(p))));
    lines.set("float3[] extent", extent(&places, wide / 2.0));
    lines.line(format!(
        "float[] widths = [{wide}] ( interpolation = \"constant\" )"
    ));
    let names = array(body.points.iter().map(|p| quoted(&p.name)));
    lines.set("custom string[] names", names);
    if body.points.iter().all(|p| p.covariance.is_some()) {
        let sigma = body.points.iter().filter_map(|p| p.covariance);
        let sigma = array(sigma.map(|c| tuple(&c.sigma())));
        lines.set("custom float3[] sigma", sigma);
    }
}
