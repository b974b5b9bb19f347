#!/bin/sh
# A cluster of one machine with two workers, on loopback: eight tasks as an array of Slurm, one of which is killed; then what is missing is run again, and all of it compared with a
# plain run. `make farm` calls it with the program and a folder to work in.
set -eu
program=$(realpath "$1"); work=$2
rm -rf "$work"; mkdir -p "$work/state" "$work/spool" "$work/farm" "$work/plain"
work=$(realpath "$work")
log="$work/log"; : > "$log"
stop() {
	for one in slurmd slurmctld munged; do
		[ -f "$work/$one.pid" ] && kill "$(cat "$work/$one.pid")" 2>/dev/null || true
	done
}
trap stop EXIT INT TERM

# Munge and Slurm, with all that they keep in the folder.
dd if=/dev/urandom of="$work/munge.key" bs=1024 count=1 2>/dev/null; chmod 400 "$work/munge.key"
munged --force --key-file="$work/munge.key" --socket="$work/munge.socket" --pid-file="$work/munged.pid" \
	--log-file="$log" --seed-file="$work/munge.seed"
export SLURM_CONF="$work/slurm.conf"
cat > "$SLURM_CONF" <<CONF
ClusterName=wrack
SlurmctldHost=localhost(127.0.0.1)
SlurmctldPort=26817
SlurmdPort=26818
AuthType=auth/munge
AuthInfo=socket=$work/munge.socket
CredType=cred/munge
SlurmUser=$(id -un)
SlurmdUser=$(id -un)
SlurmctldPidFile=$work/slurmctld.pid
SlurmdPidFile=$work/slurmd.pid
SlurmctldLogFile=$log
SlurmdLogFile=$log
StateSaveLocation=$work/state
SlurmdSpoolDir=$work/spool
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
MpiDefault=none
SelectType=select/cons_tres
SelectTypeParameters=CR_Core
ReturnToService=2
MinJobAge=2
NodeName=localhost NodeAddr=127.0.0.1 CPUs=2 RealMemory=1000 State=UNKNOWN
PartitionName=all Nodes=localhost Default=YES State=UP OverSubscribe=NO
CONF
# A container may have fewer processors than it is said to have two of.
slurmctld
slurmd -N localhost
tries=0
until sinfo -h -o %T 2>/dev/null | grep -q idle; do
	tries=$((tries + 1)); [ $tries -lt 120 ] || { echo "the cluster does not come up:"; tail -20 "$log"; exit 1; }
	sleep 0.5
done

cd "$work/farm"
"$program" demo-files --out . > /dev/null
cat > list.json <<LIST
{"pieces": [
  {"project": "gate-valve.dustcoat", "variants": ["all"], "sizes": [64, 128], "layout": "separate", "formats": ["png"], "out": "out"},
  {"project": "mooring-post.dustcoat", "sizes": [64, 128], "layout": "packed", "formats": ["png", "glb"], "out": "out"}
]}
LIST
cat > array.sh <<ARRAY
#!/bin/sh
#SBATCH --job-name=dustcoat --cpus-per-task=1 --output=/dev/null
exec "$program" task tasks.jsonl --index "\$SLURM_ARRAY_TASK_ID"
ARRAY
round() {
	"$program" tasks list.json --out tasks.jsonl
	count=$(wc -l < tasks.jsonl)
	[ "$count" -eq 0 ] || sbatch --quiet --wait --array=0-$((count - 1)) --export=ALL,RAYON_NUM_THREADS=1 array.sh
}

round &
waiting=$!
tries=0
until victim=$(pgrep -f "task tasks.jsonl --index 5"); do
	kill -0 $waiting 2>/dev/null && [ $tries -lt 3000 ] || { echo "the array does not run:"; tail -20 "$log"; exit 1; }
	tries=$((tries + 1))
	sleep 0.1
done
kill -9 $victim
echo "killed the task of index 5"
# Slurm tells of a job that a signal ended as of any other; `gather` says what is missing.
wait $waiting || true
if "$program" gather list.json; then echo "the task that was killed should be missing"; exit 1; fi
round
"$program" gather list.json

# The same by plain runs.
for variant in "As found" "Neglected" "Painted anew"; do
	for size in 64 128; do
		"$program" export gate-valve.dustcoat --variant "$variant" --size $size --layout separate --format png \
			--out "$work/plain/Gate_valve/$(echo "$variant" | tr ' ' _)/$size" > /dev/null
	done
done
for size in 64 128; do
	"$program" export mooring-post.dustcoat --size $size --layout packed --format png,glb --out "$work/plain/Mooring_post/as-it-stands/$size" > /dev/null
done
diff -r --exclude=task.json "$work/plain" out
echo "all files are those of a plain run"
