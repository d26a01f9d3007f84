"""What the shop does with a job: take its stock, plan it, measure it. Plain arguments and no page."""
