//! The front end's types, and the schemas of the formats, are those of the Rust types.

use std::path::Path;

use dustcoat_core::recipe::Recipe;
use dustcoat_core::recipe::schema::schemas;
use serde_json::{Value, json};

#[test]
fn the_front_ends_types_are_up_to_date() {
    up_to_date("web/src/api/types.ts", &dustcoat::types::typescript());
}

/// Where the schema of a format lies, as `dustcoat-2`.
fn schema_file(format: &str) -> String {
    format!("docs/schemas/{}.schema.json", format.replace('/', "-"))
}

#[test]
fn the_schemas_of_the_formats_are_up_to_date() {
    for (format, schema) in schemas() {
        let text = serde_json::to_string_pretty(&schema).expect("a schema is JSON");
        up_to_date(&schema_file(format), &format!("{text}\n"));
    }
}

#[test]
fn what_is_written_keeps_to_its_schema_and_what_is_not_ours_does_not() {
    let keeps = |format: &str, value: &Value| {
        let schema = schemas().into_iter().find(|(f, _)| *f == format).expect("a format that is written").1;
        jsonschema::is_valid(&serde_json::to_value(schema).expect("a schema is JSON"), value)
    };
    let (project, recipe) = ("dustcoat/2", "dustcoat-recipe/1");
    for document in [dustcoat_demo::projects::gate_valve(), dustcoat_demo::projects::swatch_tile()] {
        let mut value = serde_json::to_value(&document).expect("a document is JSON");
        assert!(keeps(project, &value), "{}", document.name);
        value["layers"][0]["opacity"] = json!({"dial": 7});
        assert!(!keeps(project, &value), "a drive names its dial by text");
    }
    let one = dustcoat_demo::projects::dock_paint();
    let within = Recipe::new("All of it", vec![one.to_use()], vec![]);
    for r in [one, within] {
        let mut value = serde_json::to_value(&r).expect("a recipe is JSON");
        assert!(keeps(recipe, &value), "{}", r.name);
        value["version"] = json!("two");
        assert!(!keeps(recipe, &value), "versions are numbers");
    }
}

fn up_to_date(file: &str, wanted: &str) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..").join(file);
    if std::env::var_os("DUSTCOAT_WRITE_TYPES").is_some() {
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(&path, wanted).unwrap();
    }
    let found = std::fs::read_to_string(&path).unwrap_or_default();
    assert!(found == wanted, "{file} is out of date: run `make types` and commit it");
}
