package org.mnemex.service.shard;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.atomic.AtomicInteger;
import javax.net.ssl.SSLContext;
import org.apache.hc.client5.http.config.ConnectionConfig;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.client5.http.ssl.DefaultClientTlsStrategy;
import org.apache.hc.core5.io.CloseMode;
import org.apache.hc.core5.util.TimeValue;
import org.apache.hc.core5.util.Timeout;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.Shards;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.TrustedServers;
import org.mnemex.service.compute.Repeated;
import org.springframework.stereotype.Component;

/**
 * The other search nodes that the placement names. The file is read again and again, so nodes come
 * and go, and shards move, without a restart.
 */
@Component
public class OtherNodes {
  private static final Duration PAUSE = Duration.ofMillis(500);
  private static final Duration CONNECTING = Duration.ofSeconds(2);

  /** A connection that was not used for so long is looked at before it is: it may be closed. */
  private static final Duration UNUSED = Duration.ofSeconds(1);

  /** To each node; slots for searches limit the calls at a time, but not those asked twice. */
  private static final int MAX_CONNECTIONS = 256;

  private final @Nullable Path file;
  private final String name;
  private final @Nullable Path keyFile;

  /** Null without a placement. */
  private final @Nullable CloseableHttpClient http;

  private final Hedging hedging = new Hedging();
  private final AtomicInteger turn = new AtomicInteger();
  private volatile Placement placement = new Placement(List.of());
  private volatile List<OtherNode> others = List.of();
  private @Nullable Repeated reading;

  OtherNodes(MnemexSettings settings, TrustedServers trusted) {
    MnemexSettings.Node node = settings.node();
    this.file = node.placement();
    this.name = node.name() == null ? "" : node.name();
    this.keyFile = node.keyFile();
    if (file == null) {
      this.http = null;
      return;
    }
    this.http = client(trusted.connections("mnemex.node.ssl-bundle", node.sslBundle()));
    if (settings.role() != MnemexSettings.Role.SEARCH) {
      throw new SettingsException(
          "mnemex.node.placement is for search nodes; set --mnemex.role=search as well");
    }
    if (name.isEmpty()) {
      throw new SettingsException(
          "a search node with a placement needs the name that it has there; set --mnemex.node.name");
    }
    try {
      read(file);
    } catch (IOException e) {
      throw new SettingsException(String.valueOf(e.getMessage()));
    }
    reading = new Repeated("reading the placement of shards", () -> PAUSE, () -> read(file));
  }

  /** Each call is made, and its answer read, by the thread that waits for it. */
  private static CloseableHttpClient client(@Nullable SSLContext tls) {
    ConnectionConfig connecting =
        ConnectionConfig.custom()
            .setConnectTimeout(Timeout.of(CONNECTING))
            .setValidateAfterInactivity(TimeValue.of(UNUSED))
            .build();
    PoolingHttpClientConnectionManagerBuilder connections =
        PoolingHttpClientConnectionManagerBuilder.create()
            .useSystemProperties()
            .setDefaultConnectionConfig(connecting)
            .setMaxConnPerRoute(MAX_CONNECTIONS)
            .setMaxConnTotal(Integer.MAX_VALUE);
    if (tls != null) {
      connections.setTlsSocketStrategy(new DefaultClientTlsStrategy(tls));
    }
    return HttpClients.custom()
        .useSystemProperties()
        .setConnectionManager(connections.build())
        .disableAutomaticRetries()
        .disableRedirectHandling()
        .disableCookieManagement()
        .disableAuthCaching()
        .disableContentCompression()
        .build();
  }

  private boolean read(Path from) throws IOException {
    Placement next = Placement.read(from);
    if (next.equals(placement)) {
      return true;
    }
    List<OtherNode> before = others;
    List<OtherNode> after = new ArrayList<>();
    for (Placement.Node node : next.nodes()) {
      if (!node.name().equals(name)) {
        // One that has other shards than before goes on answering meanwhile.
        after.add(
            before.stream()
                .filter(known -> known.is(node))
                .findFirst()
                .orElseGet(() -> new OtherNode(node, Objects.requireNonNull(http), keyFile)));
        after.getLast().place(node);
      }
    }
    others = List.copyOf(after);
    placement = next;
    before.stream().filter(known -> !after.contains(known)).forEach(OtherNode::close);
    return true;
  }

  /** Whether shards are placed on several nodes. */
  public boolean isOn() {
    return file != null;
  }

  /** The shards that this node is to have; null: all. */
  public @Nullable Set<Integer> own() {
    return file == null ? null : placement.of(name);
  }

  /** Why the placement cannot be read now, or null. */
  public @Nullable String problem() {
    return reading == null ? null : reading.problem();
  }

  /**
   * Where some shards are.
   *
   * @param holders nodes that have them
   * @param away numbers of those that no node has now
   */
  public record Whereabouts(List<Remote> holders, Set<Integer> away) {}

  /**
   * Chooses a node for each of some shards: few nodes, those first that have answered what they
   * were asked, and of these all in turn.
   *
   * @param edition its names at all builders
   * @param shards numbers of the shards, from 0
   */
  public Whereabouts find(List<String> edition, Set<Integer> shards) {
    List<OtherNode> nodes = new ArrayList<>(others);
    int first = nodes.isEmpty() ? 0 : Math.floorMod(turn.getAndIncrement(), nodes.size());
    Collections.rotate(nodes, first);
    // They go on changing meanwhile.
    Map<OtherNode, Integer> unanswered = new HashMap<>();
    nodes.forEach(node -> unanswered.put(node, node.unanswered()));
    nodes.sort(Comparator.comparing(unanswered::get));
    Map<OtherNode, List<Held>> chosen = new HashMap<>();
    Set<Integer> away = new TreeSet<>();
    for (int shard : shards) {
      Held best = null;
      OtherNode at = null;
      for (OtherNode node : nodes) {
        Held held = held(node, edition, shard);
        if (held != null && (best == null || chosen.containsKey(node) && !chosen.containsKey(at))) {
          best = held;
          at = node;
        }
      }
      if (best == null || at == null) {
        away.add(shard);
      } else {
        chosen.computeIfAbsent(at, node -> new ArrayList<>()).add(best);
      }
    }
    List<Remote> holders = new ArrayList<>();
    chosen.forEach((node, held) -> holders.add(new Remote(node, second(nodes, node, held), held)));
    return new Whereabouts(holders, away);
  }

  /**
   * Shards that are asked at the same time.
   *
   * @param all at least one
   * @param away numbers of the edition's shards that are nowhere now
   */
  public Shards together(List<Shard> all, Set<Integer> away) {
    return new AskedTogether(all, away, hedging);
  }

  /** Another node that has all of it, perhaps as it was a moment before or after. */
  private static @Nullable OtherNode second(
      List<OtherNode> nodes, OtherNode first, List<Held> held) {
    return nodes.stream()
        .filter(node -> !node.equals(first))
        .filter(
            node -> held.stream().allMatch(one -> held(node, one.edition(), one.shard()) != null))
        .findFirst()
        .orElse(null);
  }

  /** What is known of the other nodes, by name. */
  public List<NodeLink> links() {
    return others.stream()
        .map(
            one ->
                new NodeLink(
                    one.node().name(),
                    one.node().url().toString(),
                    one.node().shards().stream().sorted().toList(),
                    one.problem()))
        .sorted(Comparator.comparing(NodeLink::name))
        .toList();
  }

  /** Whether each of some shards of an edition is at some other node. */
  public boolean have(List<String> edition, Set<Integer> shards) {
    List<OtherNode> nodes = others;
    return shards.stream()
        .allMatch(shard -> nodes.stream().anyMatch(node -> held(node, edition, shard) != null));
  }

  /** What other nodes have of some shards of an edition, each as often as it is somewhere. */
  public List<Held> held(List<String> edition, Set<Integer> shards) {
    List<Held> all = new ArrayList<>();
    for (OtherNode node : others) {
      for (int shard : shards) {
        Held held = held(node, edition, shard);
        if (held != null) {
          all.add(held);
        }
      }
    }
    return all;
  }

  private static @Nullable Held held(OtherNode node, List<String> edition, int shard) {
    return node.held().stream()
        .filter(one -> one.shard() == shard && one.edition().equals(edition))
        .findFirst()
        .orElse(null);
  }

  /** Says that no node has a shard, and why those do not answer that should have it. */
  public String away(int shard) {
    List<String> problems = new ArrayList<>();
    for (OtherNode node : others) {
      String problem = node.problem();
      if (node.node().shards().contains(shard) && problem != null) {
        problems.add("node '%s': %s".formatted(node.node().name(), problem));
      }
    }
    return problems.isEmpty()
        ? "no node has shard %d of the index now".formatted(shard)
        : "no node has shard %d of the index now (%s)"
            .formatted(shard, String.join("; ", problems));
  }

  @PreDestroy
  void stop() {
    if (reading != null) {
      reading.close();
    }
    others.forEach(OtherNode::close);
    if (http != null) {
      http.close(CloseMode.IMMEDIATE);
    }
  }
}
