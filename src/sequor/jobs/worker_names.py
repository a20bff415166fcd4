"""Where a worker reads from its environment what it works on."""

BROKER, DATABASE, DATA = "SEQUOR_BROKER", "SEQUOR_DATABASE", "SEQUOR_DATA"
