//! What is given as text on the command line, and what is said where it makes no sense.

use std::path::Path;

use dustcoat_core::setting::{Param, ParamSpec, ParamType, Value};

use super::CliError;
use crate::app::AppError;

pub(super) fn usage(text: impl Into<String>) -> CliError {
    CliError::Usage(text.into())
}

pub(super) fn app(e: impl Into<AppError>) -> CliError {
    CliError::App(e.into())
}

/// A setting of something, as it is given as text.
pub(super) fn setting(place: &str, specs: &[ParamSpec], key: &str, value: &str) -> Result<Param, CliError> {
    let keys = || specs.iter().map(|s| s.key).collect::<Vec<_>>().join(", ");
    let spec = specs.iter().find(|s| s.key == key);
    let spec = spec.ok_or_else(|| usage(format!("{place} has no setting “{key}”; it has: {}", keys())))?;
    let of_kind = match spec.kind {
        ParamType::Number | ParamType::Integer => Value::Number(value.parse().unwrap_or(f64::NAN)),
        _ => Value::Text(value.into()),
    };
    spec.check(&of_kind).map_err(|e| usage(format!("{place} {key}={value}: {e}")))?;
    Ok(Param::Const(of_kind))
}

pub(super) fn assignment(text: &str) -> Result<(&str, &str), CliError> {
    text.split_once('=').ok_or_else(|| usage(format!("“{text}”: write it as name=value")))
}

pub(super) fn file_name(path: &Path) -> String {
    path.file_name().unwrap_or_default().to_string_lossy().into_owned()
}
