float noise() { return 0.5; }
