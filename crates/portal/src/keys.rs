//! The portal's signing keys.

use jsonwebtoken::jwk::{Jwk, JwkSet};
use jsonwebtoken::{Algorithm, EncodingKey, Header, encode};
use rsa::RsaPrivateKey;
use rsa::pkcs1::{EncodeRsaPrivateKey, LineEnding};
use serde_json::Value;

/// A key that signs, with what is published of it.
#[derive(Clone)]
pub struct SigningKey {
    pub kid: String,
    signs: EncodingKey,
    public: Jwk,
}

impl SigningKey {
    /// A new key of 2048 bits under this name.
    ///
    /// # Panics
    /// If the operating system gives no random bytes.
    #[allow(clippy::expect_used)]
    pub fn new(kid: &str) -> Self {
        let key = RsaPrivateKey::new(&mut rsa::rand_core::OsRng, 2048).expect("random bytes");
        let pem = key.to_pkcs1_pem(LineEnding::LF).expect("a key as PEM");
        let signs = EncodingKey::from_rsa_pem(pem.as_bytes()).expect("the key that was written");
        let mut public = Jwk::from_encoding_key(&signs, Algorithm::RS256).expect("a public key");
        public.common.key_id = Some(kid.to_owned());
        Self {
            kid: kid.to_owned(),
            signs,
            public,
        }
    }

    /// # Panics
    /// If the claims are no JSON.
    #[allow(clippy::expect_used)]
    pub fn sign(&self, claims: &Value) -> String {
        let mut header = Header::new(Algorithm::RS256);
        header.kid = Some(self.kid.clone());
        encode(&header, claims, &self.signs).expect("claims that are JSON")
    }
}

pub(crate) fn published(keys: &[SigningKey]) -> JwkSet {
    JwkSet {
        keys: keys.iter().map(|k| k.public.clone()).collect(),
    }
}
