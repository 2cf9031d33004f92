//! JSON Web Tokens: RS256 only (Security Framework 1.0, 5.1.1), keys by JSON Web Key Sets.

use jsonwebtoken::{Algorithm, DecodingKey, EncodingKey, Header, Validation, decode, decode_header, encode};
use rsa::pkcs1::{DecodeRsaPrivateKey, EncodeRsaPrivateKey, LineEnding};
use rsa::traits::PublicKeyParts;
use rsa::{BigUint, RsaPrivateKey};
use serde::{Deserialize, Serialize};
use serde_json::Value;

use crate::Refusal;

/// Longer than any honest message; a longer one is not looked at.
const LONGEST: usize = 64 * 1024;
/// Bits of a tool's key.
const BITS: usize = 2048;
/// Fewer bits than these are no key (RFC 7518, 3.3).
const FEWEST_BITS: usize = 2048;

/// A public RSA key as a platform or a tool publishes it (RFC 7517). Members that are not needed are let be.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Jwk {
    pub kty: String,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kid: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub alg: Option<String>,
    #[serde(default, rename = "use", skip_serializing_if = "Option::is_none")]
    pub for_use: Option<String>,
    /// Modulus, base64url without padding.
    #[serde(default)]
    pub n: String,
    /// Exponent, base64url without padding.
    #[serde(default)]
    pub e: String,
}

#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct JwkSet {
    pub keys: Vec<Jwk>,
}

impl Jwk {
    fn is_usable(&self) -> bool {
        self.kty == "RSA"
            && self.alg.as_deref().is_none_or(|a| a == "RS256")
            && self.for_use.as_deref().is_none_or(|u| u == "sig")
            // Four characters are three bytes.
            && self.n.len() * 6 / 8 * 8 + 8 >= FEWEST_BITS
    }
}

/// The claims of a token that one of these keys signed. Nothing in the claims is judged yet.
///
/// # Errors
/// If it is no token, not signed by RS256, by a key that is not among them, or not by that key.
pub fn open(token: &str, keys: &JwkSet) -> Result<Value, Refusal> {
    if token.len() > LONGEST {
        return Err(Refusal::Unreadable);
    }
    let header = match decode_header(token) {
        Ok(header) => header,
        Err(e) => {
            // `none` is no algorithm that the library knows.
            return Err(match e.kind() {
                jsonwebtoken::errors::ErrorKind::InvalidAlgorithmName => Refusal::Algorithm,
                jsonwebtoken::errors::ErrorKind::Json(_) => Refusal::Algorithm,
                _ => Refusal::Unreadable,
            });
        }
    };
    if header.alg != Algorithm::RS256 {
        return Err(Refusal::Algorithm);
    }
    let kid = header.kid.ok_or(Refusal::UnknownKey)?;
    let named = |k: &&Jwk| k.kid.as_deref() == Some(&kid) && k.is_usable();
    let key = keys.keys.iter().find(named).ok_or(Refusal::UnknownKey)?;
    let key = DecodingKey::from_rsa_components(&key.n, &key.e).map_err(|_| Refusal::UnknownKey)?;
    let mut validation = Validation::new(Algorithm::RS256);
    // Instants and audiences are judged with the launch, by the instant that comes from outside.
    validation.required_spec_claims.clear();
    validation.validate_exp = false;
    validation.validate_aud = false;
    match decode::<Value>(token, &key, &validation) {
        Ok(read) if read.claims.is_object() => Ok(read.claims),
        Ok(_) => Err(Refusal::Unreadable),
        Err(e) => Err(match e.kind() {
            jsonwebtoken::errors::ErrorKind::InvalidSignature => Refusal::Signature,
            _ => Refusal::Unreadable,
        }),
    }
}

/// A key could not be made or read.
#[derive(Debug, thiserror::Error)]
#[error("key: {0}")]
pub struct KeyError(String);

fn fault(e: impl std::fmt::Display) -> KeyError {
    KeyError(e.to_string())
}

/// The tool's own key.
pub struct ToolKey {
    kid: String,
    public: Jwk,
    signs: EncodingKey,
}

impl ToolKey {
    /// A new private key, as PEM (PKCS #1).
    ///
    /// # Errors
    /// If the operating system gives no random bytes.
    pub fn make() -> Result<String, KeyError> {
        let key = RsaPrivateKey::new(&mut rsa::rand_core::OsRng, BITS).map_err(fault)?;
        Ok(key.to_pkcs1_pem(LineEnding::LF).map_err(fault)?.to_string())
    }

    /// # Errors
    /// If it is no private RSA key.
    pub fn read(kid: &str, pem: &str) -> Result<Self, KeyError> {
        let key = RsaPrivateKey::from_pkcs1_pem(pem).map_err(fault)?;
        let public = Jwk {
            kty: "RSA".into(),
            kid: Some(kid.to_owned()),
            alg: Some("RS256".into()),
            for_use: Some("sig".into()),
            n: base64url(key.n()),
            e: base64url(key.e()),
        };
        Ok(Self {
            kid: kid.to_owned(),
            public,
            signs: EncodingKey::from_rsa_pem(pem.as_bytes()).map_err(fault)?,
        })
    }

    pub fn public(&self) -> &Jwk {
        &self.public
    }

    /// # Errors
    /// If the claims can't be written.
    pub fn sign(&self, claims: &Value) -> Result<String, KeyError> {
        let mut header = Header::new(Algorithm::RS256);
        header.kid = Some(self.kid.clone());
        encode(&header, claims, &self.signs).map_err(fault)
    }
}

/// Big-endian bytes in base64url without padding (RFC 7518, 2).
fn base64url(number: &BigUint) -> String {
    const DIGITS: &[u8; 64] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_";
    let mut out = String::new();
    for three in number.to_bytes_be().chunks(3) {
        let bits = three.iter().fold(0u32, |all, b| all << 8 | u32::from(*b)) << (8 * (3 - three.len()));
        for at in 0..=three.len() {
            let digit = bits >> (18 - 6 * at) & 63;
            out.push(char::from(DIGITS[usize::try_from(digit).unwrap_or(0)]));
        }
    }
    out
}
