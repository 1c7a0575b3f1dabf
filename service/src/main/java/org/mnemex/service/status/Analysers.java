package org.mnemex.service.status;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.install.Installation;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.stereotype.Component;

/** All analysers, built in and defined. */
@Component
public class Analysers {
  private final Installation installation;

  public Analysers(Installation installation) {
    this.installation = installation;
  }

  /** All, the defined ones first, each group by name. */
  public List<Analyser> all() {
    List<Analyser> all = new ArrayList<>();
    new TreeMap<>(installation.running().analysers())
        .values()
        .forEach(analyser -> all.add(analyser.analyser()));
    all.addAll(new TreeMap<>(Components.analysers()).values());
    return all;
  }

  public boolean isBuiltIn(String name) {
    return Components.analysers().containsKey(name);
  }

  /**
   * The analyser of that name.
   *
   * @throws ProblemException with the nearest name, if there is none
   */
  public Analyser get(String name) {
    return all().stream()
        .filter(analyser -> analyser.name().equals(name))
        .findFirst()
        .orElseThrow(
            () ->
                new ProblemException(
                    ProblemType.UNKNOWN_ANALYSER,
                    "there is no analyser '" + name + "'",
                    NearestName.to(name, all().stream().map(Analyser::name).toList())));
  }
}
