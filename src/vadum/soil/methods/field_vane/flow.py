"""The order of work for field vane."""

from vadum.soil.contract.flow import BALANCE, Flow, Task

FLOW: Flow = (
    Task(
        key="example",
        title="TO FILL",
        does="TO FILL: how it is done, in one line.",
        fields=("example_mm", "remarks", *BALANCE),
        needs=("example_mm",),
        gives="example",
        asks="TO FILL: what is said when it is next.",
        cautions=("TO FILL: the usual cautions, or none.",),
        hands_s=120,
    ),
)
