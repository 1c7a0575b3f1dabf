package org.mnemex.service.publish;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;

/** What is published for other machines. */
@Tag(name = "Store", description = "editions for other machines")
@RestController
class StoreController {
  private final Publications publications;
  private final Following following;

  StoreController(Publications publications, Following following) {
    this.publications = publications;
    this.following = following;
  }

  @Operation(
      summary = "Get what is published or followed",
      description =
          "Where the store is, which editions are in it, and why nothing is published or followed"
              + " now, if so.")
  @GetMapping("/api/store")
  StoreView store() {
    return following.isOn() ? following.view() : publications.view();
  }
}
