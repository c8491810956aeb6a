"""A folder with a model: opened, held against its data, looked at while the model is changed, and counted again."""
