use super::*;
use parallax_core::guest::{What, stand_ins};
use proptest::prelude::*;
use rstest::rstest;

const CUBE_OBJ: &str = "mtllib c.mtl\nv -1 0 -1\nv 1 0 -1\nv 1 0 1\nv -1 0 1\nv -1 2 -1\nv 1 2 -1\nv 1 2 1\nv -1 2 1\nvt 0 0\nvt 1 1\nusemtl brass\nf 1/1 2/2 3/1 4/2\nf 5/1 8/2 7/1 6/2\nf 1 5 6 2\nf 2 6 7 3\nf 3 7 8 4\nf 4 8 5 1\n";
const MTL: &str = "newmtl brass\nKd 0.8 0.6 0.2\nNs 90\n";
const PLY: &str = "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 2\nproperty list uchar int vertex_indices\nend_header\n0 0 0 255 0 0\n2 0 0 255 0 0\n2 3 0 255 0 0\n0 3 0 255 0 0\n3 0 1 2\n3 0 2 3\n";

fn file(name: &str, bytes: impl AsRef<[u8]>) -> Named {
    (name.to_owned(), bytes.as_ref().to_vec())
}

/// What is written is read back corner by corner, colours and textures with it.
#[rstest]
#[case::block(What::Box { size_m: [0.4, 1.2, 0.6] })]
#[case::card(What::Checker { size_m: [0.6, 0.4], squares: 6 })]
#[case::text(What::Text { text: "A 12".to_owned(), height_m: 0.3 })]
#[case::cylinder(What::Cylinder { diameter_m: 0.3, height_m: 1.7 })]
fn a_written_model_is_read_back(#[case] what: What) {
    let mesh = stand_ins::mesh(&what).unwrap();
    let back = read(&[file("guest.glb", glb::write("guest", &mesh))]).unwrap();
    assert_eq!(back.textures, mesh.textures);
    assert_eq!(back.triangles.len(), mesh.triangles.len());
    let sorted = |m: &Mesh| {
        let corner = |k: &u32| m.points[*k as usize].map(|v| (v * 1e4).round() as i64);
        let mut all: Vec<_> = m
            .triangles
            .iter()
            .zip(&m.material_of)
            .map(|(t, of)| {
                (
                    t.map(|k| corner(&k)),
                    m.materials[usize::from(*of)].name.clone(),
                )
            })
            .collect();
        all.sort();
        all
    };
    assert!(
        sorted(&back) == sorted(&mesh),
        "corners or materials differ"
    );
}

#[test]
fn an_obj_comes_with_its_material_and_stands_on_its_foot() {
    let mesh = read(&[file("Cube.OBJ", CUBE_OBJ), file("c.mtl", MTL)]).unwrap();
    assert_eq!(mesh.triangles.len(), 12);
    let material = &mesh.materials[usize::from(mesh.material_of[0])];
    assert_eq!(
        (material.name.as_str(), material.colour),
        ("brass", [0.8, 0.6, 0.2, 1.0])
    );
    let [low, high] = mesh.bounds().unwrap();
    assert_eq!((low.y, high.y, low.x, high.x), (0.0, 2.0, -1.0, 1.0));
}

#[test]
fn a_ply_comes_with_its_colour() {
    let mesh = read(&[file("wall.ply", PLY)]).unwrap();
    assert_eq!(mesh.triangles.len(), 2);
    assert!(mesh.materials[0].colour[0] > 0.9 && mesh.materials[0].colour[1] < 0.01);
    assert!(mesh.normals.iter().all(|n| n[2] > 0.99));
}

/// Nodes turn and scale what they hold, one inside the other.
#[test]
fn nodes_put_meshes_where_they_say() {
    let mesh = stand_ins::mesh(&What::Box {
        size_m: [1.0, 1.0, 1.0],
    })
    .unwrap();
    let bytes = glb::write("b", &mesh);
    let long = u32::from_le_bytes(bytes[12..16].try_into().unwrap()) as usize;
    let mut root: serde_json::Value = serde_json::from_slice(&bytes[20..20 + long]).unwrap();
    root["nodes"] = serde_json::json!([
        { "children": [1], "scale": [2.0, 2.0, 2.0] },
        { "mesh": 0, "rotation": [0.0, 0.0, std::f64::consts::FRAC_1_SQRT_2, std::f64::consts::FRAC_1_SQRT_2], "translation": [0.0, 3.0, 0.0], "scale": [1.0, 2.0, 1.0] },
    ]);
    root["buffers"][0]["uri"] = "b%20c.bin".into();
    let both = [
        file("b.gltf", root.to_string()),
        file("b c.bin", &bytes[28 + long..]),
    ];
    let [low, high] = read(&both).unwrap().bounds().unwrap();
    // The long side, 2 m, lies along x after the turn, and everything is twice as large.
    assert!(
        (high.x - low.x - 4.0).abs() < 1e-4 && (high.y - low.y - 2.0).abs() < 1e-4,
        "{low} {high}"
    );
    let alone = read(&both[..1]).unwrap_err();
    assert_eq!(
        alone.to_string(),
        "b.gltf names b c.bin, which was not given: give it together with the model"
    );
    root["nodes"] = serde_json::json!([{ "children": [1] }, { "children": [0], "mesh": 0 }]);
    let circle = read(&[file("b.gltf", root.to_string()), both[1].clone()]);
    assert!(
        matches!(circle, Err(ModelError::Unreadable { .. })),
        "nodes that hold each other: {circle:?}"
    );
}

#[rstest]
#[case::nothing(&[("readme.txt", "hello")], "none of the files is a model")]
#[case::no_library(&[("c.obj", CUBE_OBJ)], "c.obj names c.mtl, which was not given")]
#[case::no_triangles(&[("p.obj", "v 0 0 0\nv 1 0 0\n")], "has no triangles")]
#[case::no_numbers(&[("n.obj", "v 0 0 0\nv nan 0 0\nv 0 1 0\nf 1 2 3\n")], "places that are no numbers")]
#[case::far(&[("n.obj", "v 0 0 0\nv 1e30 0 0\nv 0 1 0\nf 1 2 3\n")], "places that are no numbers")]
#[case::corners(&[("n.ply", "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n3 0 1 2\n")], "corners that it does not have")]
#[case::lies(&[("n.ply", "ply\nformat ascii 1.0\nelement vertex 4000000000\nproperty float x\nend_header\n0\n")], "")]
#[case::cut(&[("n.glb", "glTF")], "cannot be read as a model")]
#[case::short(&[("n.glb", "glTF\u{2}\0\0\0\u{4}\0\0\0")], "cannot be read as a model")]
fn what_cannot_be_drawn_says_why(#[case] files: &[(&str, &str)], #[case] said: &str) {
    let files: Vec<Named> = files.iter().map(|(n, t)| file(n, t)).collect();
    let error = read(&files).unwrap_err().to_string();
    assert!(error.contains(said), "{error}");
}

/// Faces are counted before anything is made of them.
#[test]
fn too_many_faces_are_refused_at_once() {
    let many = format!("v 0 0 0\n{}", "f 1 1 1 1\n".repeat(MOST_TRIANGLES / 2 + 1));
    let error = read(&[file("m.obj", many)]).unwrap_err();
    let found = MOST_TRIANGLES + 2;
    assert_eq!(
        error,
        ModelError::TooLarge {
            what: "triangles",
            found,
            most: MOST_TRIANGLES
        }
    );
}

/// A file that says it has more than there is.
#[rstest]
#[case("/accessors/0/count", 4_000_000_000u64)]
#[case("/accessors/2/count", 90_000)]
#[case("/bufferViews/0/byteLength", u64::MAX)]
#[case("/bufferViews/0/byteOffset", u64::MAX)]
#[case("/buffers/0/byteLength", 1 << 40)]
#[case("/nodes/0/mesh", 7)]
fn a_model_that_lies_about_its_size_is_refused(#[case] at: &str, #[case] value: u64) {
    let mesh = stand_ins::mesh(&What::Sphere { diameter_m: 1.0 }).unwrap();
    let bytes = glb::write("b", &mesh);
    let long = u32::from_le_bytes(bytes[12..16].try_into().unwrap()) as usize;
    let mut root: serde_json::Value = serde_json::from_slice(&bytes[20..20 + long]).unwrap();
    *root.pointer_mut(at).unwrap() = value.into();
    root["buffers"][0]["uri"] = "b.bin".into();
    let both = [
        file("b.gltf", root.to_string()),
        file("b.bin", &bytes[28 + long..]),
    ];
    assert!(read(&both).is_err());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]
    /// Whatever is changed in a file, nothing panics and nothing that is not finite comes out.
    #[test]
    fn damaged_models_are_read_or_refused(which in 0..3usize, changes in prop::collection::vec((0..4000usize, any::<u8>()), 1..12), cut in 0..4000usize) {
        let ball = stand_ins::mesh(&What::Box { size_m: [1.0; 3] }).unwrap();
        let mut files = [
            vec![file("b.glb", glb::write("b", &ball))],
            vec![file("c.obj", CUBE_OBJ), file("c.mtl", MTL)],
            vec![file("w.ply", PLY)],
        ][which].clone();
        let bytes = &mut files[0].1;
        for (at, value) in changes {
            let at = at % bytes.len();
            bytes[at] = value;
        }
        if cut % 3 == 0 {
            bytes.truncate(cut % bytes.len());
        }
        if let Ok(mesh) = read(&files) {
            prop_assert!(mesh.points.iter().flatten().all(|v| v.is_finite()));
            prop_assert!(mesh.triangles.iter().flatten().all(|k| (*k as usize) < mesh.points.len()));
        }
    }
}
