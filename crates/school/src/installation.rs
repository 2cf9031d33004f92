//! A whole installation as a zip: a manifest, and a file of JSON lines for each table.

use std::io::{BufRead, BufReader, Read, Seek, Write};

use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use store::{StoreError, TABLES};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

const FORMAT: &str = "green-slate/installation/1";
/// Rows that go into the database at once.
const AT_ONCE: usize = 500;

#[derive(Serialize, Deserialize)]
struct Manifest {
    format: String,
    /// The version of the database it came from.
    schema: i64,
    tables: Vec<String>,
}

/// Why an installation did not move. The words are for an administrator.
#[derive(Debug, thiserror::Error)]
pub enum MoveError {
    #[error("the database: {0}")]
    Store(#[from] StoreError),
    #[error("the file: {0}")]
    File(String),
    #[error("this is no Green Slate installation, or one of a later format: {0}")]
    Format(String),
    #[error(
        "it was made with version {theirs} of the database, and this program has {ours}: use the program it was made with, or bring \
         that installation up to date and export it again"
    )]
    OtherVersion { theirs: i64, ours: i64 },
    #[error("the database is not empty: import goes into a new one, so that nothing is lost")]
    NotEmpty,
}

impl From<std::io::Error> for MoveError {
    fn from(error: std::io::Error) -> Self {
        MoveError::File(error.to_string())
    }
}

impl From<zip::result::ZipError> for MoveError {
    fn from(error: zip::result::ZipError) -> Self {
        MoveError::File(error.to_string())
    }
}

impl From<sqlx::Error> for MoveError {
    fn from(error: sqlx::Error) -> Self {
        MoveError::Store(error.into())
    }
}

/// Writes everything as it is at one moment. Gives the number of rows.
///
/// # Errors
/// What the database said, or the file.
pub async fn export(pool: &PgPool, to: impl Write + Seek) -> Result<usize, MoveError> {
    let mut zip = ZipWriter::new(to);
    let options = SimpleFileOptions::default()
        .compression_method(CompressionMethod::Deflated)
        .large_file(true);
    let manifest = Manifest {
        format: FORMAT.into(),
        schema: store::schema_version(),
        tables: TABLES.iter().map(|t| (*t).to_owned()).collect(),
    };
    zip.start_file("manifest.json", options)?;
    zip.write_all(
        serde_json::to_string_pretty(&manifest)
            .unwrap_or_default()
            .as_bytes(),
    )?;
    let (mut count, mut at) = (0, String::new());
    let each = |table: &str, row: &str| -> Result<(), MoveError> {
        if at != table {
            table.clone_into(&mut at);
            zip.start_file(format!("{table}.jsonl"), options)?;
        }
        zip.write_all(row.as_bytes())?;
        zip.write_all(b"\n")?;
        count += 1;
        Ok(())
    };
    store::read_all(pool, each).await??;
    zip.finish()?;
    Ok(count)
}

/// Puts an installation into an empty database of the same version: all of it, or nothing. Gives the number of rows.
///
/// # Errors
/// What the file or the database said.
pub async fn import(pool: &PgPool, from: impl Read + Seek) -> Result<usize, MoveError> {
    let mut zip = ZipArchive::new(from).map_err(|e| MoveError::Format(e.to_string()))?;
    let manifest: Manifest = {
        let file = zip
            .by_name("manifest.json")
            .map_err(|_| MoveError::Format("it has no manifest".into()))?;
        serde_json::from_reader(file).map_err(|e| MoveError::Format(e.to_string()))?
    };
    if manifest.format != FORMAT {
        return Err(MoveError::Format(manifest.format));
    }
    let ours = store::schema_version();
    if manifest.schema != ours {
        let theirs = manifest.schema;
        return Err(MoveError::OtherVersion { theirs, ours });
    }
    if !store::is_untouched(pool).await? {
        return Err(MoveError::NotEmpty);
    }
    let mut tx = pool.begin().await?;
    let mut count = 0;
    for table in TABLES {
        let file = match zip.by_name(&format!("{table}.jsonl")) {
            Ok(file) => file,
            Err(zip::result::ZipError::FileNotFound) => continue,
            Err(other) => return Err(other.into()),
        };
        let mut rows = Vec::with_capacity(AT_ONCE);
        for line in BufReader::new(file).lines() {
            rows.push(line?);
            count += 1;
            if rows.len() == AT_ONCE {
                store::put_rows(&mut tx, table, &rows).await?;
                rows.clear();
            }
        }
        if !rows.is_empty() {
            store::put_rows(&mut tx, table, &rows).await?;
        }
    }
    tx.commit().await?;
    Ok(count)
}
