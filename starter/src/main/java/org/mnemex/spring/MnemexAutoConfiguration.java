package org.mnemex.spring;

import javax.net.ssl.SSLContext;
import org.mnemex.client.MnemexClient;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnClass;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.boot.context.properties.EnableConfigurationProperties;
import org.springframework.boot.health.contributor.HealthIndicator;
import org.springframework.boot.ssl.SslBundles;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.env.Environment;

/** Beans of an application that searches; each gives way to one of the application's own. */
@AutoConfiguration
@EnableConfigurationProperties(MnemexClientProperties.class)
public class MnemexAutoConfiguration {
  @Bean
  @ConditionalOnMissingBean
  MnemexClient mnemexClient(
      MnemexClientProperties properties, Environment environment, ObjectProvider<SslBundles> ssl) {
    String bundle = properties.sslBundle();
    SSLContext tls = bundle == null ? null : ssl.getObject().getBundle(bundle).createSslContext();
    return new MnemexClient(
        properties.url(),
        properties.options(environment.getProperty("spring.application.name"), tls));
  }

  @Bean
  @ConditionalOnMissingBean
  PushFailures mnemexPushFailures() {
    return PushFailures.LOGGED;
  }

  @Bean
  @ConditionalOnMissingBean
  PushAfterCommit mnemexPushAfterCommit(MnemexClient client, PushFailures failures) {
    return new PushAfterCommit(client, failures);
  }

  /** Only for applications that have health. */
  @Configuration(proxyBeanMethods = false)
  @ConditionalOnClass(HealthIndicator.class)
  static class Health {
    @Bean
    @ConditionalOnMissingBean(name = "mnemexHealthIndicator")
    HealthIndicator mnemexHealthIndicator(MnemexClient client) {
      return new MnemexHealthIndicator(client);
    }
  }
}
