"""Where rows come from, behind the waist."""
