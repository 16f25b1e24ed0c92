"""From ready pieces to full plates, sheets and trees: gathering, laying, files, and reading them back."""
