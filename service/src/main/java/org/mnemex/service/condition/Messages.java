package org.mnemex.service.condition;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.store.ConditionMapper;
import org.mnemex.service.store.ConditionMapper.MessageRow;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * Sends messages over all channels, to each in the order in which they were written. What does not
 * arrive is sent again, at growing intervals, also after a restart, and is given up after a day.
 */
@Component
public class Messages {
  private static final Logger LOG = LoggerFactory.getLogger(Messages.class);
  private static final int KEPT = 1000;
  private static final Duration FIRST_PAUSE = Duration.ofSeconds(5);
  private static final Duration LONGEST_PAUSE = Duration.ofHours(1);
  private static final Duration GIVEN_UP = Duration.ofDays(1);
  private static final int MAX_DOUBLINGS = 10;

  private final Channels channels;
  private final ConditionMapper mapper;
  private final ConditionSettings settings;
  private final Clock clock;
  private final JsonMapper json;

  Messages(
      Channels channels,
      ConditionMapper mapper,
      ConditionSettings settings,
      Clock clock,
      JsonMapper json) {
    this.channels = channels;
    this.mapper = mapper;
    this.settings = settings;
    this.clock = clock;
    this.json = json;
  }

  /**
   * A channel.
   *
   * @param name where messages go
   * @param waiting how many messages have not arrived
   * @param arrived when the last one arrived, ISO 8601, UTC; null if none has
   * @param error why the last one has not arrived; null if it has
   */
  public record ChannelView(
      String name, long waiting, @Nullable String arrived, @Nullable String error) {}

  /**
   * What became of a test message.
   *
   * @param channel where it went
   * @param error why it did not arrive; null if it did
   */
  public record Tried(String channel, @Nullable String error) {}

  /** Writes a message to all channels, in the transaction of the caller. */
  void add(List<Event> events) {
    Instant now = clock.instant();
    String body = json.writeValueAsString(message(now, events));
    for (Channel channel : channels.all()) {
      mapper.add(channel.name(), now.toString(), body);
    }
    mapper.trimMessages(KEPT);
  }

  private Message message(Instant at, List<Event> events) {
    return new Message(settings.service(), at.toString(), events);
  }

  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.SECONDS)
  void send() {
    for (Channel channel : channels.all()) {
      try {
        send(channel);
      } catch (RuntimeException e) {
        LOG.warn("messages to {} are not sent yet: {}", channel.name(), e.getMessage());
      }
    }
  }

  private void send(Channel channel) {
    Instant now = clock.instant();
    MessageRow row = mapper.waiting(channel.name());
    if (row == null || row.nextTry() == null || Instant.parse(row.nextTry()).isAfter(now)) {
      return;
    }
    try {
      channel.send(
          "message-" + row.id(),
          json.readValue(row.body(), Message.class),
          row.body().getBytes(StandardCharsets.UTF_8));
      mapper.tried(row.id(), row.tries(), null, clock.instant().toString(), null);
    } catch (IOException e) {
      int tries = row.tries() + 1;
      boolean isOver = Instant.parse(row.at()).plus(GIVEN_UP).isBefore(now);
      String next = isOver ? null : now.plus(pause(tries)).toString();
      mapper.tried(row.id(), tries, next, null, String.valueOf(e.getMessage()));
      LOG.warn(
          "a message did not arrive at {}: {}; {}",
          channel.name(),
          e.getMessage(),
          isOver ? "given up" : "trying again");
    }
  }

  private static Duration pause(int tries) {
    Duration pause = FIRST_PAUSE.multipliedBy(1L << Math.min(tries - 1, MAX_DOUBLINGS));
    return pause.compareTo(LONGEST_PAUSE) > 0 ? LONGEST_PAUSE : pause;
  }

  /** Sends a test message over each channel, now and once. */
  public List<Tried> test() {
    Instant now = clock.instant();
    Event event =
        new Event(
            "test",
            "test",
            settings.service(),
            now.toString(),
            "somebody asked for this message, to see whether it arrives");
    Message message = message(now, List.of(event));
    byte[] body = json.writeValueAsBytes(message);
    return channels.all().stream().map(channel -> tried(channel, message, body)).toList();
  }

  private static Tried tried(Channel channel, Message message, byte[] body) {
    try {
      channel.send("test-" + UUID.randomUUID(), message, body);
      return new Tried(channel.name(), null);
    } catch (IOException e) {
      return new Tried(channel.name(), String.valueOf(e.getMessage()));
    }
  }

  /** All channels, and whether messages arrive. */
  public List<ChannelView> channels() {
    return channels.all().stream().map(channel -> view(channel.name())).toList();
  }

  private ChannelView view(String channel) {
    MessageRow latest = mapper.latest(channel);
    return new ChannelView(
        channel,
        mapper.howManyWait(channel),
        latest == null ? null : latest.arrived(),
        latest == null ? null : latest.error());
  }
}
