"""What pages show, made ready for templates: drawings, rows, payloads. No decisions."""
