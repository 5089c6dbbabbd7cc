#!/usr/bin/env bash
# Runs a batch as an array of shards under Slurm; each shard does its own shots, a finished shot is skipped:
#
#   sbatch --array=1-8 scheduling/slurm-array.sh JOB.json
#
# TRUE_PARALLAX names the program where it is not on the path. Plates and the batch's folder have to be seen from all nodes.
#SBATCH --job-name=true-parallax
#SBATCH --cpus-per-task=2
#SBATCH --output=batch-%A-%a.log
set -euo pipefail
shard="$((SLURM_ARRAY_TASK_ID - SLURM_ARRAY_TASK_MIN + 1))/$SLURM_ARRAY_TASK_COUNT"
exec "${TRUE_PARALLAX:-true-parallax}" batch "$1" --shard "$shard"
