<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Sets\CannotPlan;
use App\Sets\Points;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Mail\Message;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** `item`: one message, with where it lay when; or its source. */
final class ItemCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('item')
            ->setDescription('Shows one message, and where it lay when')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('id', InputArgument::REQUIRED, 'as find and browse give it, or the beginning of its digest')
            ->addOption('source', null, InputOption::VALUE_NONE, 'its bytes as they were, and nothing else');
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $id = strtolower((string) $input->getArgument('id'));
        $item = ItemFinder::named($workload, $id) ?? throw new InvalidArgumentException("There is no item \"$id\", or several begin so.");
        $points = new Points($workload);
        $bytes = (new ItemReader($points))->one($item->id) ?? throw CannotPlan::because('it is in no archive that can be read');
        $points->stores->release();
        $what = "The message {$item->key()} of {$workload->name} was read.";
        TrailEntry::add($what, null, null, sort: TrailSort::Content, workload: $workload);
        if ($input->getOption('source')) {
            fwrite(STDOUT, $bytes);

            return self::DONE;
        }
        $message = Message::of($bytes);
        $this->answer(
            ItemJson::of($item) + [
                'to' => $item->details->to,
                'cc' => $item->details->cc,
                'attached' => $item->details->attached,
                'wrong' => $item->details->wrong,
                'text' => $message->text(),
                'places' => array_map(fn (ItemSpan $span): array => array_intersect_key(
                    ItemJson::of($item, $span),
                    ['mailbox' => 0, 'folder' => 0, 'flags' => 0, 'received_at' => 0, 'first' => 0, 'until' => 0],
                ), $item->spans),
            ],
            function () use ($item, $message): iterable {
                yield "From: {$item->sender}";
                yield "To: {$item->recipients}";
                yield "Subject: {$item->subject}";
                yield 'Date: '.($item->sentAt === null ? 'not said' : gmdate('Y-m-d H:i:s\Z', $item->sentAt));
                foreach ($item->details->attached as $thing) {
                    yield "Attached: {$thing->name} ({$thing->type}, ".number_format($thing->size).' bytes)';
                }
                yield '';
                foreach (explode("\n", $message->text()) as $line) {
                    yield Shown::name($line);
                }
                yield '';
                foreach ($item->spans as $span) {
                    yield '  '.ItemJson::line($item, $span);
                }
            },
        );

        return self::DONE;
    }
}
