package org.mnemex.service.condition;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import org.mnemex.service.SettingsException;
import org.springframework.mail.javamail.JavaMailSenderImpl;
import org.springframework.stereotype.Component;
import org.springframework.util.StringUtils;

/** The channels of the settings. */
@Component
class Channels {
  private static final int LEAST_SECRET = 16;

  private final List<Channel> all = new ArrayList<>();

  /**
   * @throws SettingsException if a channel could not work
   */
  Channels(ConditionSettings settings, JavaMailSenderImpl mail, Clock clock) {
    for (ConditionSettings.Webhook webhook : settings.webhooks()) {
      all.add(new WebhookChannel(all.size() + 1, url(webhook), secret(webhook), clock));
    }
    List<String> to = settings.mail().to();
    if (!to.isEmpty()) {
      if (!StringUtils.hasText(mail.getHost())) {
        throw new SettingsException(
            "mnemex.conditions.mail.to needs a server for mail: set spring.mail.host", null);
      }
      all.add(new MailChannel(mail, settings.mail().from(), to));
    }
  }

  private static URI url(ConditionSettings.Webhook webhook) {
    try {
      URI url = URI.create(webhook.url());
      if (url.getHost() != null && String.valueOf(url.getScheme()).matches("https?")) {
        return url;
      }
    } catch (IllegalArgumentException e) {
      // Said below.
    }
    throw new SettingsException(
        "mnemex.conditions.webhooks: '%s' is no address; write https://…".formatted(webhook.url()),
        null);
  }

  private static String secret(ConditionSettings.Webhook webhook) {
    String secret = webhook.secret();
    if (webhook.secretFile() != null) {
      try {
        secret = Files.readString(Path.of(webhook.secretFile())).strip();
      } catch (IOException e) {
        throw new SettingsException(
            "mnemex.conditions.webhooks: the file %s cannot be read"
                .formatted(webhook.secretFile()),
            e);
      }
    }
    if (secret == null || secret.length() < LEAST_SECRET) {
      throw new SettingsException(
          "mnemex.conditions.webhooks: %s needs a secret of at least %d characters, in secret-file or secret"
              .formatted(webhook.url(), LEAST_SECRET),
          null);
    }
    return secret;
  }

  /** All of them. */
  List<Channel> all() {
    return List.copyOf(all);
  }
}
