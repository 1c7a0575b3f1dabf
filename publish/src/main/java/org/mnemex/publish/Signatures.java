package org.mnemex.publish;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.MessageDigest;
import java.security.PrivateKey;
import java.security.PublicKey;
import java.security.Signature;
import java.security.spec.PKCS8EncodedKeySpec;
import java.security.spec.X509EncodedKeySpec;
import java.util.Base64;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Signatures of named contents, with Ed25519 (RFC 8032). They are made with the private key, and
 * with it they are recognised by making them again, as there is only one for each content. With the
 * public key they are checked.
 */
public final class Signatures {
  private static final String ALGORITHM = "Ed25519";
  private static final Pattern PEM =
      Pattern.compile("-----BEGIN ([A-Z ]+)-----([A-Za-z0-9+/=\\s]+)-----END \\1-----");

  private final @Nullable PrivateKey makingKey;
  private final @Nullable PublicKey checkingKey;

  private Signatures(@Nullable PrivateKey makingKey, @Nullable PublicKey checkingKey) {
    this.makingKey = makingKey;
    this.checkingKey = checkingKey;
  }

  /** No signatures are made, and none are asked for. */
  public static Signatures none() {
    return new Signatures(null, null);
  }

  /**
   * Signatures are made, and asked for.
   *
   * @param file a private key in PEM (RFC 7468), as {@code openssl genpkey} makes it
   * @throws IOException if it cannot be read, or has something else
   */
  public static Signatures madeWith(Path file) throws IOException {
    byte[] key = pem(file, "PRIVATE KEY");
    try {
      return new Signatures(
          KeyFactory.getInstance(ALGORITHM).generatePrivate(new PKCS8EncodedKeySpec(key)), null);
    } catch (GeneralSecurityException e) {
      throw otherKey(file, "private", e);
    }
  }

  /**
   * Signatures are asked for, and not made.
   *
   * @param file a public key in PEM (RFC 7468), as {@code openssl pkey -pubout} makes it
   * @throws IOException if it cannot be read, or has something else
   */
  public static Signatures checkedWith(Path file) throws IOException {
    byte[] key = pem(file, "PUBLIC KEY");
    try {
      return new Signatures(
          null, KeyFactory.getInstance(ALGORITHM).generatePublic(new X509EncodedKeySpec(key)));
    } catch (GeneralSecurityException e) {
      throw otherKey(file, "public", e);
    }
  }

  private static byte[] pem(Path file, String label) throws IOException {
    Matcher found = PEM.matcher(text(file));
    if (!found.find() || !found.group(1).equals(label)) {
      throw new IOException("%s does not begin with -----BEGIN %s-----".formatted(file, label));
    }
    return Base64.getMimeDecoder().decode(found.group(2));
  }

  private static String text(Path file) throws IOException {
    try {
      return Files.readString(file, StandardCharsets.US_ASCII);
    } catch (IOException e) {
      // Its own message is often no more than the name.
      throw new IOException(file + " cannot be read", e);
    }
  }

  private static IOException otherKey(Path file, String what, GeneralSecurityException cause) {
    return new IOException("%s has no %s key for %s".formatted(file, what, ALGORITHM), cause);
  }

  /** Whether what is read has to be signed. */
  boolean areNeeded() {
    return makingKey != null || checkingKey != null;
  }

  /** The signature of a content under its name; null if none are made. */
  byte @Nullable [] make(String name, byte[] content) {
    if (makingKey == null) {
      return null;
    }
    try {
      Signature signature = Signature.getInstance(ALGORITHM);
      signature.initSign(makingKey);
      update(signature, name, content);
      return signature.sign();
    } catch (GeneralSecurityException e) {
      throw new UncheckedIOException(new IOException("'%s' cannot be signed".formatted(name), e));
    }
  }

  /** Whether a signature is that of a content under its name. */
  boolean isOf(String name, byte[] content, byte[] signature) {
    byte[] own = make(name, content);
    if (own != null) {
      return MessageDigest.isEqual(own, signature);
    }
    try {
      Signature check = Signature.getInstance(ALGORITHM);
      check.initVerify(checkingKey);
      update(check, name, content);
      return check.verify(signature);
    } catch (GeneralSecurityException e) {
      // Something that is not even of the form of a signature.
      return false;
    }
  }

  /** The name belongs to it, or one object could be put in the place of another. */
  private static void update(Signature signature, String name, byte[] content)
      throws GeneralSecurityException {
    signature.update(name.getBytes(StandardCharsets.UTF_8));
    signature.update((byte) 0);
    signature.update(content);
  }
}
