package org.mnemex.service;

import java.util.function.Function;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManager;
import org.jspecify.annotations.Nullable;
import org.springframework.boot.ssl.NoSuchSslBundleException;
import org.springframework.boot.ssl.SslBundle;
import org.springframework.boot.ssl.SslBundles;
import org.springframework.stereotype.Component;

/**
 * Whose certificates are trusted when this service calls another one with https: those of a bundle
 * under {@code spring.ssl.bundle}, if a setting names one.
 */
@Component
public class TrustedServers {
  private final SslBundles bundles;

  TrustedServers(SslBundles bundles) {
    this.bundles = bundles;
  }

  /**
   * Encrypted connections; null, for those that Java makes, if no bundle is named.
   *
   * @param setting the setting that names the bundle
   * @throws SettingsException if there is no such bundle, or it cannot be used
   */
  public @Nullable SSLContext connections(String setting, @Nullable String bundle) {
    return of(setting, bundle, SslBundle::createSslContext);
  }

  /** The same for libraries that make their connections themselves. */
  public TrustManager @Nullable [] managers(String setting, @Nullable String bundle) {
    return of(setting, bundle, named -> named.getManagers().getTrustManagers());
  }

  private <T> @Nullable T of(
      String setting, @Nullable String bundle, Function<SslBundle, T> content) {
    if (bundle == null) {
      return null;
    }
    try {
      return content.apply(bundles.getBundle(bundle));
    } catch (NoSuchSslBundleException | IllegalStateException e) {
      throw new SettingsException(
          "%s is '%s', which cannot be used: %s; see spring.ssl.bundle.pem"
              .formatted(setting, bundle, e.getMessage()),
          e);
    }
  }
}
