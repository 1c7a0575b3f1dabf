package org.mnemex.service.condition;

import java.time.Duration;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;
import org.springframework.util.unit.DataSize;

/**
 * When a condition begins, and who is told, under {@code mnemex.conditions}. A limit of 0 switches
 * its condition off.
 *
 * @param behind an index is behind its source for longer
 * @param away a source cannot be reached for longer
 * @param stopped an index does not run, or its feed has stopped, for longer
 * @param store nothing is published to the store, or followed from there, for longer
 * @param nodeAway a search node has not reported for longer, and has not said that it stops
 * @param retained a database keeps more of its log for one of our readers
 * @param retainedChanges a database keeps more lines of a journal for one of our readers
 * @param quarantine more records of an index are in quarantine
 * @param waiting an edition waits for approval for longer
 * @param diskFree less of the disk of the data folder is free, in percent
 * @param errors more searches fail, in percent of those of the last five minutes
 * @param slow the 99th percentile of the searches of the last five minutes takes longer
 * @param quiet a condition ends when it has not held for so long
 * @param every how often everything is looked at
 * @param service how the service calls itself in messages
 * @param webhooks addresses that are posted to
 * @param mail who gets a mail, over the server under {@code spring.mail}
 */
@ConfigurationProperties("mnemex.conditions")
public record ConditionSettings(
    @DefaultValue("5m") Duration behind,
    @DefaultValue("2m") Duration away,
    @DefaultValue("30s") Duration stopped,
    @DefaultValue("1m") Duration store,
    @DefaultValue("1m") Duration nodeAway,
    @DefaultValue("10GB") DataSize retained,
    @DefaultValue("1000000") long retainedChanges,
    @DefaultValue("100") long quarantine,
    @DefaultValue("24h") Duration waiting,
    @DefaultValue("10") int diskFree,
    @DefaultValue("5") int errors,
    @DefaultValue("2s") Duration slow,
    @DefaultValue("1m") Duration quiet,
    @DefaultValue("5s") Duration every,
    @DefaultValue("Mnemex") String service,
    @DefaultValue List<Webhook> webhooks,
    @DefaultValue Mail mail) {
  /**
   * An address that is posted to.
   *
   * @param url where to
   * @param secret with which messages are signed; better from a file or an environment variable
   * @param secretFile a file with the secret
   */
  public record Webhook(String url, @Nullable String secret, @Nullable String secretFile) {
    /** Hides the secret. */
    @Override
    public String toString() {
      return "Webhook[url=%s]".formatted(url);
    }
  }

  /**
   * Who gets a mail.
   *
   * @param to addresses
   * @param from the address of the sender
   */
  public record Mail(
      @DefaultValue List<String> to, @DefaultValue("mnemex@localhost") String from) {}
}
