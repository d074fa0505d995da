"""What was: any quantity of a tank over days or years, who lived in it, what was done, and what has drifted."""
