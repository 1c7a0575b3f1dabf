package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Everything that is shipped has a licence that the project accepts, by the bill of materials. */
class LicencesTest {
  private static final Set<String> ACCEPTED =
      Set.of(
          "Apache-2.0",
          "BSD-2-Clause",
          "BSD-3-Clause",
          "CC0-1.0",
          "EPL-2.0",
          "Go License",
          "LGPL-2.1-or-later",
          "MIT",
          "MIT-0",
          "Unicode-3.0");

  @ParameterizedTest
  @ValueSource(strings = {"service", "cli"})
  void everyComponentHasAnAcceptedLicence(String module) {
    Path file = RunningService.root().resolve(module).resolve("target/bom.json");
    JsonNode components = JsonMapper.shared().readTree(file.toFile()).path("components");
    assertThat(components.size()).isGreaterThan(20);
    Map<String, Set<String>> others = new TreeMap<>();
    for (JsonNode component : components) {
      Set<String> licences = new TreeSet<>();
      for (JsonNode one : component.path("licenses")) {
        JsonNode licence = one.path("license");
        licences.add(licence.path("id").asString(licence.path("name").asString("none")));
      }
      if (licences.stream().noneMatch(ACCEPTED::contains)) {
        others.put(component.path("name").asString(), licences);
      }
    }
    assertThat(others).isEmpty();
  }
}
