package org.mnemex.client;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.Certificate;
import java.security.cert.CertificateFactory;
import java.util.Collection;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;

/** Authorities whose certificates are trusted in the place of those that Java knows. */
final class Authorities {
  private Authorities() {}

  /**
   * Encrypted connections that trust what a file names.
   *
   * @param file certificates in PEM (RFC 7468)
   * @throws IllegalArgumentException if it has none, or cannot be read
   */
  static SSLContext read(Path file) {
    try (InputStream in = Files.newInputStream(file)) {
      Collection<? extends Certificate> certificates =
          CertificateFactory.getInstance("X.509").generateCertificates(in);
      if (certificates.isEmpty()) {
        throw new IllegalArgumentException(file + " has no certificates; it is to be a PEM file");
      }
      KeyStore trusted = KeyStore.getInstance(KeyStore.getDefaultType());
      trusted.load(null, null);
      for (Certificate certificate : certificates) {
        trusted.setCertificateEntry(Integer.toString(trusted.size()), certificate);
      }
      TrustManagerFactory managers =
          TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
      managers.init(trusted);
      SSLContext context = SSLContext.getInstance("TLS");
      context.init(null, managers.getTrustManagers(), null);
      return context;
    } catch (IOException | GeneralSecurityException e) {
      throw new IllegalArgumentException(
          "the certificates in %s cannot be read: %s".formatted(file, e), e);
    }
  }
}
