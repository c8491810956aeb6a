"""Where rows come from: files of a folder, read into dictionary-coded columns behind the waist."""
