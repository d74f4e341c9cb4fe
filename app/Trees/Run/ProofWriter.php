<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\Run;
use App\Runs\DigestedFile;
use App\Runs\Evidence;
use App\Runs\RunFiles;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Proof\DigestLine;

/**
 * Writes the evidence of a run: a manifest that b2sum reads, a list of the files as they were found on the target, and a
 * signed account that names the digests of both.
 */
final class ProofWriter
{
    private readonly DigestedFile $manifest;

    /** One JSON object a line: path, size, mode, mtime in nanoseconds, digest; where only permissions came back, those. */
    private readonly DigestedFile $entries;

    public function __construct(private readonly Run $run, private readonly RestorePlan $plan)
    {
        $this->manifest = new DigestedFile(RunFiles::manifest($run));
        $this->entries = new DigestedFile(RunFiles::entries($run));
    }

    /** One file that is right, and where it is now below the target: a signature for Verification's callback. */
    public function file(string $path, string $now, Version $version): void
    {
        $this->line(DigestLine::of((string) $version->digest, $now));
        $this->entries->add(
            json_encode(
                PathInJson::of($now) + [
                    'size' => $version->size,
                    'mode' => sprintf('%04o', $version->mode),
                    'mtime_ns' => (string) $version->mtime,
                    'blake2b_256' => bin2hex((string) $version->digest),
                ],
                JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE,
            )."\n",
        );
    }

    /** One thing that has the permissions of then again. */
    public function permissions(string $path, Version $version): void
    {
        $this->entries->add(
            json_encode(
                PathInJson::of($path) + [
                    'mode' => sprintf('%04o', $version->mode),
                    'owner' => $version->uname,
                    'group' => $version->gname,
                    'acl' => $version->access,
                ],
                JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE,
            )."\n",
        );
    }

    public function line(string $line): void
    {
        $this->manifest->add($line);
    }

    /** @param  array<string, mixed>  $outcome */
    public function write(array $outcome): void
    {
        $run = $this->run;
        $evidence = [
            'kind' => 'kaiseki proof of a restore',
            'version' => 1,
            'run' => $run->id,
            'request' => $run->request_id,
            'order' => $this->plan->sentence,
            'workload' => $run->workload->name,
            'point' => $run->set->name,
            'captured_at' => $run->set->captured_at->format('Y-m-d\TH:i:s.u\Z'),
            'asked_by' => $run->request?->requester->name,
            'run_by' => $run->user->name ?? 'command line',
            'paths' => array_map(fn (string $path): array => PathInJson::of('/'.$path), $this->plan->paths),
            'target' => PathInJson::of($this->plan->target),
            'host' => $this->plan->host === '' ? null : $this->plan->host,
            'conflict' => $this->plan->conflict->value,
            'started_at' => $run->started_at?->format('Y-m-d\TH:i:s.v\Z'),
            'ended_at' => $run->ended_at?->format('Y-m-d\TH:i:s.v\Z'),
            'files' => $outcome['files'],
            'entries' => $outcome['entries'],
            'bytes' => $outcome['bytes'],
            'read' => $outcome['read'],
            'checks' => $outcome['checks'],
            'right' => $outcome['right'],
            'left_out' => $outcome['left_out'],
            'left_out_count' => $outcome['left_out_count'],
            'differences' => $outcome['differences'],
            'difference_count' => $outcome['differences_count'],
            'from_other_points' => $outcome['from_other_points'],
            'from_other_points_count' => $outcome['from_other_points_count'],
            'commands' => Evidence::commands($outcome['commands']),
            'approval' => Evidence::approval($run),
            'download' => $this->plan->download,
            'permissions_only' => $this->plan->permissionsOnly,
            'steps' => Evidence::steps($run),
            'manifest_blake2b_256' => bin2hex($this->manifest->finish()),
            'entries_blake2b_256' => bin2hex($this->entries->finish()),
        ];
        Evidence::sign($run, $evidence);
    }
}
