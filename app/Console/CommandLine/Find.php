<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Catalog\CatalogReader;
use App\Catalog\FoundVersion;
use App\Runs\PathInJson;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Find extends KaisekiCommand
{
    private const MOST = 100_000;

    protected function configure(): void
    {
        parent::configure();
        $this->setName('find')->setDescription('Finds versions by name')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('pattern', InputArgument::REQUIRED, 'with * and ? for the whole name; without them it may stand anywhere in it, in any case')
            ->addOption('from', null, InputOption::VALUE_REQUIRED, 'only what was there at or after this moment')
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'only what was there at or before this moment');
    }

    protected function carryOut(InputInterface $input): int
    {
        $pattern = (string) $input->getArgument('pattern');
        if ($pattern === '') {
            throw new InvalidArgumentException('Say what to look for.');
        }
        $moment = fn (string $option): ?int => $input->getOption($option) === null ? null : Instant::parse((string) $input->getOption($option))->microseconds;
        $found = (new CatalogReader)->find($this->workload($input), $pattern, $moment('from'), $moment('to'), self::MOST + 1);
        if (count($found) > self::MOST) {
            $this->say('More than '.number_format(self::MOST).' versions fit; the rest is left out. Narrow the pattern or the span.');
            $found = array_slice($found, 0, self::MOST);
        }
        $this->answer(['versions' => array_map(fn (FoundVersion $version): array => PathInJson::of('/'.$version->path) + [
            'kind' => VersionRow::kind($version->version), 'size' => $version->version->size, 'mtime' => VersionRow::time($version->version->mtime),
            'first' => Instant::ofMicroseconds($version->first)->iso(), 'until' => $version->until === PHP_INT_MAX ? null : Instant::ofMicroseconds($version->until)->iso(),
        ] + VersionRow::extras($version->version), $found)], function () use ($found): iterable {
            foreach ($found as $version) {
                yield sprintf('/%s  %s  from %s %s', $version->path, number_format(max(0, $version->version->size)), Instant::ofMicroseconds($version->first)->iso(), $version->until === PHP_INT_MAX ? 'on' : 'until '.Instant::ofMicroseconds($version->until)->iso());
            }
            yield $found === [] ? 'Nothing of that name.' : count($found).' versions.';
        });

        return self::DONE;
    }
}
