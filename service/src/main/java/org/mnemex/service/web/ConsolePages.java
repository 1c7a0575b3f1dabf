package org.mnemex.service.web;

import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;

/** The console's pages are one file; which page is shown is decided in the browser. */
@Controller
class ConsolePages {
  @GetMapping({"/", "/console", "/console/**"})
  String page() {
    return "forward:/index.html";
  }
}
