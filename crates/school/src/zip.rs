//! Zips that are packed as they are sent: nothing of one is held but the file that is being packed.

use std::io::{self, Write};

use store::PersonId;
use tokio::sync::mpsc::{Receiver, Sender, channel};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use crate::School;
use crate::compute::{Cost, Turn};
use crate::error::SchoolError;

/// Bytes that are sent at a time.
const CHUNK: usize = 64 * 1024;
/// Chunks that wait for a slow line.
const AHEAD: usize = 4;

/// A file of a zip. Pictures and the like are as small as they get; texts are not.
pub(crate) struct Packed {
    pub name: String,
    pub bytes: Vec<u8>,
    pub is_text: bool,
}

impl Packed {
    pub fn text(name: impl Into<String>, text: impl Into<Vec<u8>>) -> Self {
        Packed {
            name: name.into(),
            bytes: text.into(),
            is_text: true,
        }
    }
}

/// A zip on its way: chunks, or why it broke off.
pub struct Zip {
    chunks: Receiver<io::Result<Vec<u8>>>,
    /// One export of a person at a time, until all of it was sent.
    _turn: Turn,
}

impl Zip {
    /// The next piece.
    pub async fn next(&mut self) -> Option<io::Result<Vec<u8>>> {
        self.chunks.recv().await
    }
}

/// Where files to be packed are handed in, one after the other.
pub(crate) struct Files(Sender<Result<Packed, SchoolError>>);

impl Files {
    /// Hands one over; waits while the line is slow. Whether anybody still wants it.
    pub async fn add(&self, file: Result<Packed, SchoolError>) -> bool {
        self.0.send(file).await.is_ok()
    }
}

/// Begins a zip for somebody. Files come by `fill`, which goes on while the zip is sent.
///
/// # Errors
/// [`SchoolError::Busy`] while another of theirs is packed.
pub(crate) async fn begin<F: Future<Output = ()> + Send + 'static>(
    school: &School,
    by: PersonId,
    fill: impl FnOnce(Files) -> F,
) -> Result<Zip, SchoolError> {
    let turn = school.turn(Cost::Packing, by).await?;
    let (files, mut wanted) = channel(1);
    let (sent, chunks) = channel(AHEAD);
    tokio::spawn(fill(Files(files)));
    tokio::task::spawn_blocking(move || {
        let mut out = Out {
            sent: sent.clone(),
            chunk: Vec::with_capacity(CHUNK),
        };
        let packed = pack(&mut out, || wanted.blocking_recv()).and_then(|()| out.flush());
        if let Err(error) = packed {
            // Who asked hung up, or something is wrong with what is packed: a zip that ends early is no zip.
            tracing::warn!(cause = %error, "a zip broke off");
            let _ = sent.blocking_send(Err(error));
        }
    });
    Ok(Zip { chunks, _turn: turn })
}

fn pack(out: &mut Out, mut next: impl FnMut() -> Option<Result<Packed, SchoolError>>) -> io::Result<()> {
    let mut writer = ZipWriter::new_stream(out);
    while let Some(file) = next() {
        let file = file.map_err(|e| io::Error::other(e.to_string()))?;
        let method = if file.is_text {
            CompressionMethod::Deflated
        } else {
            CompressionMethod::Stored
        };
        let options = SimpleFileOptions::default().compression_method(method);
        writer.start_file(file.name.as_str(), options)?;
        writer.write_all(&file.bytes)?;
    }
    writer.finish()?;
    Ok(())
}

struct Out {
    sent: Sender<io::Result<Vec<u8>>>,
    chunk: Vec<u8>,
}

impl Write for Out {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.chunk.extend_from_slice(bytes);
        if self.chunk.len() >= CHUNK {
            self.flush()?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        let chunk = std::mem::replace(&mut self.chunk, Vec::with_capacity(CHUNK));
        if chunk.is_empty() {
            return Ok(());
        }
        let gone = |_| io::Error::from(io::ErrorKind::BrokenPipe);
        self.sent.blocking_send(Ok(chunk)).map_err(gone)
    }
}

#[cfg(test)]
mod tests {
    use std::io::{Cursor, Read};

    use super::*;

    #[test]
    fn what_is_streamed_is_a_zip() {
        let (sent, mut chunks) = channel(10_000);
        let mut files = vec![
            Packed {
                name: "a.png".into(),
                bytes: vec![7; 200_000],
                is_text: false,
            },
            Packed::text("b/c.json", "{}"),
        ];
        let mut out = Out {
            sent,
            chunk: Vec::new(),
        };
        pack(&mut out, || files.pop().map(Ok)).unwrap();
        out.flush().unwrap();
        drop(out);
        let mut all = Vec::new();
        while let Some(chunk) = chunks.blocking_recv() {
            let chunk = chunk.unwrap();
            assert!(chunk.len() < 4 * CHUNK || chunk.len() >= 200_000);
            all.extend(chunk);
        }
        let mut zip = zip::ZipArchive::new(Cursor::new(all)).unwrap();
        let mut text = String::new();
        zip.by_name("b/c.json")
            .unwrap()
            .read_to_string(&mut text)
            .unwrap();
        assert_eq!(text, "{}");
        assert_eq!(zip.by_name("a.png").unwrap().size(), 200_000);
    }
}
