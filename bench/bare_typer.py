"""The smallest Typer program there is: what start-up is measured against."""

import typer

app = typer.Typer()


@app.command()
def hello(name: str = "you") -> None:
    """Say hello."""
    print(name)


if __name__ == "__main__":
    app()
