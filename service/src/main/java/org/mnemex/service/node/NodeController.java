package org.mnemex.service.node;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** The search nodes that follow this builder. */
@Tag(name = "Store", description = "editions for other machines")
@RestController
class NodeController {
  private final SearchNodes nodes;

  NodeController(SearchNodes nodes) {
    this.nodes = nodes;
  }

  @Operation(
      summary = "List the search nodes that report to this builder",
      description = "By name; nodes that stop leave the list, others are away for an hour.")
  @GetMapping("/api/nodes")
  List<NodeView> nodes() {
    return nodes.all();
  }

  @Operation(
      summary = "Report as a search node, and wait for news",
      description =
          "The answer names the objects that were written to the store after 'known', or none"
              + " after five seconds. Without 'objects' any may have been written.")
  @PostMapping("/api/nodes/{node}")
  NodeNews report(@PathVariable String node, @RequestBody NodeReport report)
      throws InterruptedException {
    return nodes.report(node, report);
  }

  @Operation(summary = "Leave as a search node", description = "It is no longer listed.")
  @DeleteMapping("/api/nodes/{node}")
  void leave(@PathVariable String node) {
    nodes.leave(node);
  }
}
