//! OpenUSD as text: camera, landmarks and guests.
//!
//! USD multiplies row vectors, so matrices are written transposed. Focal length and aperture
//! are in mm, as receivers expect; the offset of the aperture carries the centre of
//! projection. USD is right-handed by definition, with Y or Z up: a left-handed receiver gets its
//! up axis, right-handed. Lens distortion has no place in a USD camera: model, terms, centre and the
//! focal length that they hold for are stated in the layer's data, and the camera is that of the
//! undistorted picture. Where the lens zooms, k1 at a focal length is
//! `k1 + k1ByZoom ln(focal length / lensFocalPx)`.

use crate::delivery::{Delivered, Delivery};
use parallax_core::scene::{Receiver, Up};
use std::fmt::Write;

/// The layer as text.
pub fn write(delivery: &Delivery<'_>) -> String {
    let mut out = String::new();
    // Writing to a String cannot fail.
    let _ = header(&mut out, delivery);
    let _ = camera(&mut out, delivery);
    let _ = landmarks(&mut out, delivery);
    for (index, guest) in delivery.guests.iter().enumerate() {
        let corners = guest.corners();
        let points: Vec<String> = corners.map(|c| tuple(&axes(delivery).point(&c))).collect();
        let _ = mesh(&mut out, index, guest, &points);
    }
    out.push_str("}\n");
    out
}

fn axes(delivery: &Delivery<'_>) -> Receiver {
    delivery.receiver.right_handed()
}

fn tuple(values: &[f64]) -> String {
    let parts: Vec<String> = values.iter().map(f64::to_string).collect();
    format!("({})", parts.join(", "))
}

fn header(out: &mut String, d: &Delivery<'_>) -> std::fmt::Result {
    let first = d.cameras.first().map_or(0, |c| c.frame.0);
    let last = d.cameras.last().map_or(0, |c| c.frame.0);
    let lens = &d.lens.distortion;
    writeln!(out, "#usda 1.0\n(")?;
    writeln!(out, "    customLayerData = {{")?;
    writeln!(out, "        string rate = \"{}\"", d.rate)?;
    writeln!(out, "        string shot = \"{}\"", quoted(&d.shot))?;
    writeln!(
        out,
        "        string units = \"{}\"",
        if d.scaled { "metre" } else { "no scale" }
    )?;
    writeln!(out, "        int plateWidth = {}", d.lens.width_px)?;
    writeln!(out, "        int plateHeight = {}", d.lens.height_px)?;
    writeln!(out, "        string lensModel = \"brown\"")?;
    let terms = [
        ("k1", lens.k1),
        ("k2", lens.k2),
        ("k3", lens.k3),
        ("p1", lens.p1),
        ("p2", lens.p2),
        ("k1ByZoom", lens.k1_by_zoom),
        ("lensFocalPx", d.lens.focal_px),
        ("lensCentreX", d.lens.centre.x),
        ("lensCentreY", d.lens.centre.y),
    ];
    for (name, value) in terms {
        writeln!(out, "        double {name} = {value}")?;
    }
    let standing = if d.standing.good {
        "good"
    } else {
        "needs a look"
    };
    writeln!(out, "        string camera = \"{standing}\"")?;
    for (name, sentences) in [
        ("cameraReasons", &d.standing.reasons),
        ("assumptions", &d.assumptions()),
        ("staleSince", &d.stale),
    ] {
        let quoted: Vec<String> = sentences
            .iter()
            .map(|s| format!("\"{}\"", quoted(s)))
            .collect();
        writeln!(out, "        string[] {name} = [{}]", quoted.join(", "))?;
    }
    writeln!(out, "    }}")?;
    writeln!(out, "    defaultPrim = \"shot\"")?;
    writeln!(out, "    startTimeCode = {first}\n    endTimeCode = {last}")?;
    writeln!(
        out,
        "    timeCodesPerSecond = {}\n    framesPerSecond = {}",
        d.rate.as_f64(),
        d.rate.as_f64()
    )?;
    let up = if d.receiver.up == Up::Z { "Z" } else { "Y" };
    // Without a scale a unit is taken for a metre, since the format has no other word.
    writeln!(out, "    metersPerUnit = 1\n    upAxis = \"{up}\"\n)\n")?;
    writeln!(out, "def Xform \"shot\"\n{{")
}

fn quoted(text: &str) -> String {
    let plain = text.chars().filter(|c| !c.is_control());
    plain.fold(String::new(), |mut out, c| {
        if matches!(c, '"' | '\\') {
            out.push('\\');
        }
        out.push(c);
        out
    })
}

fn camera(out: &mut String, d: &Delivery<'_>) -> std::fmt::Result {
    let mm_per_px = d.film_back.width_mm / f64::from(d.lens.width_px);
    let (width, height) = (f64::from(d.lens.width_px), f64::from(d.lens.height_px));
    writeln!(out, "    def Camera \"camera\"\n    {{")?;
    writeln!(out, "        token projection = \"perspective\"")?;
    writeln!(out, "        float2 clippingRange = (0.01, 100000)")?;
    if d.zooms() {
        writeln!(out, "        float focalLength.timeSamples = {{")?;
        for camera in &d.cameras {
            let (frame, mm) = (camera.frame, camera.focal_px * mm_per_px);
            writeln!(out, "            {frame}: {mm},")?;
        }
        writeln!(out, "        }}")?;
    } else {
        let focal_px = d.cameras.first().map_or(d.lens.focal_px, |c| c.focal_px);
        writeln!(out, "        float focalLength = {}", focal_px * mm_per_px)?;
    }
    writeln!(
        out,
        "        float horizontalAperture = {}",
        width * mm_per_px
    )?;
    writeln!(
        out,
        "        float verticalAperture = {}",
        height * mm_per_px
    )?;
    writeln!(
        out,
        "        float horizontalApertureOffset = {}",
        (width / 2.0 - d.lens.centre.x) * mm_per_px
    )?;
    writeln!(
        out,
        "        float verticalApertureOffset = {}",
        (d.lens.centre.y - height / 2.0) * mm_per_px
    )?;
    writeln!(out, "        matrix4d xformOp:transform.timeSamples = {{")?;
    for camera in &d.cameras {
        let (frame, m) = (camera.frame, axes(d).world_from_camera(&camera.pose));
        let rows: Vec<String> = (0..4)
            .map(|c| tuple(&[m[(0, c)], m[(1, c)], m[(2, c)], m[(3, c)]]))
            .collect();
        writeln!(out, "            {frame}: ( {} ),", rows.join(", "))?;
    }
    writeln!(out, "        }}")?;
    writeln!(
        out,
        "        uniform token[] xformOpOrder = [\"xformOp:transform\"]\n    }}\n"
    )
}

fn landmarks(out: &mut String, d: &Delivery<'_>) -> std::fmt::Result {
    let points: Vec<String> = d
        .points
        .iter()
        .map(|p| tuple(&axes(d).point(&p.place)))
        .collect();
    let names: Vec<String> = d
        .points
        .iter()
        .map(|p| format!("\"{}\"", quoted(&p.name)))
        .collect();
    writeln!(out, "    def Points \"landmarks\"\n    {{")?;
    writeln!(out, "        point3f[] points = [{}]", points.join(", "))?;
    writeln!(
        out,
        "        float[] widths = [0.03] (\n            interpolation = \"constant\"\n        )"
    )?;
    writeln!(
        out,
        "        custom string[] names = [{}]\n    }}\n",
        names.join(", ")
    )
}

fn mesh(out: &mut String, index: usize, guest: &Delivered, points: &[String]) -> std::fmt::Result {
    let triangles = &guest.mesh.triangles;
    let corners: Vec<String> = triangles.iter().flatten().map(u32::to_string).collect();
    let counts = vec!["3"; triangles.len()].join(", ");
    writeln!(out, "    def Mesh \"guest_{}\"\n    {{", index + 1)?;
    writeln!(out, "        point3f[] points = [{}]", points.join(", "))?;
    writeln!(out, "        int[] faceVertexCounts = [{counts}]")?;
    writeln!(
        out,
        "        int[] faceVertexIndices = [{}]",
        corners.join(", ")
    )?;
    writeln!(out, "        uniform token subdivisionScheme = \"none\"")?;
    writeln!(
        out,
        "        custom string label = \"{}\"\n    }}\n",
        quoted(&guest.name)
    )
}
