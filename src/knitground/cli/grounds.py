"""The commands about grounds: knitting and checking them."""

import json

import typer

from knitground.cli.common import AsJson, ProjectFolder, opened, plain, progress

FINDINGS = 1


def check(project: ProjectFolder, as_json: AsJson = False) -> None:
    """List what is wrong with a project; exits 1 where there are findings."""
    from knitground.core.project.ledger import all_findings

    derived = opened(project)
    with progress("Checking") as report:
        findings = all_findings(derived, report)
    if as_json:
        typer.echo(json.dumps([plain(finding) for finding in findings], ensure_ascii=False, indent=1))
    else:
        for finding in findings:
            typer.echo(f"{finding.stage}: {finding.sentence}")
        typer.echo(f"{len(findings)} finding{'s' * (len(findings) != 1)}" if findings else "nothing found")
    raise typer.Exit(FINDINGS if findings else 0)


def knit(project: ProjectFolder, as_json: AsJson = False) -> None:
    """Knit every derived layer and say how many tiles are laid; exits 1 if no tile fits in some cells."""
    import numpy as np

    derived = opened(project)
    rows, poor = [], False
    for ground in derived.document.project.grounds:
        for layer in ground.layers:
            if not layer.knits:
                continue
            codes, unmet, _ = derived.knitted(ground.id).laid(layer.id, ground.board.whole)
            instead = int(np.count_nonzero(unmet & 1))
            rows.append({
                "ground": ground.name, "layer": layer.name, "laid": int(np.count_nonzero(codes > 0)),
                "holes": int(np.count_nonzero(codes < 0)), "instead": instead,
                "broken": int(np.count_nonzero(unmet & 2)),
            })  # fmt: skip
            poor |= instead > 0
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False))
    for row in () if as_json else rows:
        typer.echo(
            f"{row['ground']}, {row['layer']}: {row['laid']} tiles laid, "
            f"{row['instead']} cells without a fitting tile, {row['broken']} with joins that break, "
            f"{row['holes']} holes"
        )
    raise typer.Exit(FINDINGS if poor else 0)
