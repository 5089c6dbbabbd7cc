//! Guests and set of a layer: a transform each, a surface in its own space, materials.

use super::text::{Lines, array, matrix, quoted, tuple};
use super::{Writing, extent};
use crate::delivery::Delivered;
use crate::meshes::textures;
use parallax_core::camera::Similarity;
use parallax_core::guest::{Material, Mesh};

pub fn write(lines: &mut Lines, writing: &Writing<'_>) {
    let d = writing.delivery;
    group(lines, writing, ("guests", "guest"), &d.guests, |k| {
        textures::named(d, k)
    });
    group(lines, writing, ("set", "plane"), &d.set, |_| Vec::new());
}

fn group(
    lines: &mut Lines,
    writing: &Writing<'_>,
    (scope, one): (&str, &str),
    all: &[Delivered],
    pictures: impl Fn(usize) -> Vec<String>,
) {
    if all.is_empty() {
        return;
    }
    lines.prim("Xform", scope, &[], |lines| {
        for (index, surfaced) in all.iter().enumerate() {
            let name = format!("{one}_{}", index + 1);
            let path = format!("/shot/{scope}/{name}");
            let metadata = [("displayName", quoted(&surfaced.name))];
            lines.prim("Xform", &name, &metadata, |lines| {
                lines.set("custom string label", quoted(&surfaced.name));
                place(lines, writing, &surfaced.there, &surfaced.moves);
                surface(lines, &path, &surfaced.mesh);
                materials(lines, &path, &surfaced.mesh, &pictures(index));
            });
        }
    });
}

/// Where something stands: on every frame of what moves.
pub fn place(lines: &mut Lines, writing: &Writing<'_>, there: &Similarity, moves: &[Similarity]) {
    if moves.is_empty() {
        let there = matrix(&writing.placed(there));
        lines.set("matrix4d xformOp:transform", there);
    } else {
        let there = moves.iter().map(|m| matrix(&writing.placed(m)));
        let samples = writing.times().into_iter().zip(there);
        lines.samples("matrix4d xformOp:transform", samples);
    }
    lines.set(
        "uniform token[] xformOpOrder",
        array([quoted("xformOp:transform")]),
    );
}

const BINDS: (&str, &str) = ("prepend apiSchemas", "[\"MaterialBindingAPI\"]");

fn surface(lines: &mut Lines, path: &str, mesh: &Mesh) {
    let binds = [(BINDS.0, BINDS.1.to_owned())];
    lines.prim("Mesh", "surface", &binds, |lines| {
        let triangles = &mesh.triangles;
        lines.set("uniform bool doubleSided", 1);
        lines.set("float3[] extent", extent(&mesh.points, 0.0));
        lines.set("int[] faceVertexCounts", array(triangles.iter().map(|_| 3)));
        lines.set("int[] faceVertexIndices", array(triangles.iter().flatten()));
        lines.set(
            "point3f[] points",
            array(mesh.points.iter().map(|p| tuple(p))),
        );
        let vertex = "( interpolation = \"vertex\" )";
        let normals = array(mesh.normals.iter().map(|n| tuple(n)));
        lines.line(format!("normal3f[] normals = {normals} {vertex}"));
        // Its pictures have their origin at the lower left.
        let uvs = array(mesh.uvs.iter().map(|[u, v]| tuple(&[*u, 1.0 - v])));
        lines.line(format!("texCoord2f[] primvars:st = {uvs} {vertex}"));
        lines.set("uniform token subdivisionScheme", quoted("none"));
        let used = used(mesh);
        if let [only] = used[..] {
            lines.set("rel material:binding", bound(path, only));
            return;
        }
        lines.set(
            "uniform token subsetFamily:materialBind:familyType",
            quoted("partition"),
        );
        for material in used {
            let faces =
                (0..triangles.len()).filter(|k| usize::from(mesh.material_of[*k]) == material);
            let name = format!("part_{}", material + 1);
            lines.prim("GeomSubset", &name, &binds, |lines| {
                lines.set("uniform token elementType", quoted("face"));
                lines.set("uniform token familyName", quoted("materialBind"));
                lines.set("int[] indices", array(faces));
                lines.set("rel material:binding", bound(path, material));
            });
        }
    });
}

/// Materials that a triangle has.
fn used(mesh: &Mesh) -> Vec<usize> {
    let mut used: Vec<usize> = mesh.material_of.iter().map(|m| usize::from(*m)).collect();
    used.sort_unstable();
    used.dedup();
    used
}

fn bound(path: &str, material: usize) -> String {
    format!("<{path}/materials/material_{}>", material + 1)
}

fn materials(lines: &mut Lines, path: &str, mesh: &Mesh, textures: &[String]) {
    lines.prim("Scope", "materials", &[], |lines| {
        for index in used(mesh) {
            let Some(material) = mesh.materials.get(index) else {
                continue;
            };
            let name = format!("material_{}", index + 1);
            let metadata = [("displayName", quoted(&material.name))];
            let own = format!("{path}/materials/{name}");
            lines.prim("Material", &name, &metadata, |lines| {
                let preview = format!("<{own}/preview.outputs:surface>");
                lines.set("token outputs:surface.connect", preview);
                let picture = material.texture.and_then(|t| textures.get(t));
                shader(lines, &own, material, picture.is_some());
                if let Some(picture) = picture {
                    pictured(lines, &own, material, picture);
                }
            });
        }
    });
}

fn shader(lines: &mut Lines, own: &str, material: &Material, pictured: bool) {
    let [r, g, b, opacity] = material.colour;
    lines.prim("Shader", "preview", &[], |lines| {
        lines.set("uniform token info:id", quoted("UsdPreviewSurface"));
        if pictured {
            let picture = format!("<{own}/picture.outputs:rgb>");
            lines.set("color3f inputs:diffuseColor.connect", picture);
        } else {
            lines.set("color3f inputs:diffuseColor", tuple(&[r, g, b]));
        }
        lines.set("float inputs:metallic", material.metal);
        lines.set("float inputs:roughness", material.rough);
        if pictured && opacity < 1.0 {
            let coverage = format!("<{own}/picture.outputs:a>");
            lines.set("float inputs:opacity.connect", coverage);
        } else {
            lines.set("float inputs:opacity", opacity);
        }
        lines.line("token outputs:surface");
    });
}

fn pictured(lines: &mut Lines, own: &str, material: &Material, picture: &str) {
    lines.prim("Shader", "picture", &[], |lines| {
        lines.set("uniform token info:id", quoted("UsdUVTexture"));
        lines.set("asset inputs:file", format!("@{picture}@"));
        lines.set("token inputs:sourceColorSpace", quoted("sRGB"));
        lines.set("token inputs:wrapS", quoted("repeat"));
        lines.set("token inputs:wrapT", quoted("repeat"));
        lines.set("float4 inputs:scale", tuple(&material.colour));
        lines.set(
            "float2 inputs:st.connect",
            format!("<{own}/st.outputs:result>"),
        );
        lines.line("float3 outputs:rgb");
        lines.line("float outputs:a");
    });
    lines.prim("Shader", "st", &[], |lines| {
        lines.set("uniform token info:id", quoted("UsdPrimvarReader_float2"));
        lines.set("string inputs:varname", quoted("st"));
        lines.line("float2 outputs:result");
    });
}
