<?php

declare(strict_types=1);

namespace App\Demo;

use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use DateTimeImmutable;
use Kaiseki\StandIns\SorrelSoundChartRoom;
use Kaiseki\StandIns\SorrelSoundFiles;

/** Open requests that each meet one of the things that go wrong. */
final class OpenRequests
{
    /** @param  string  $notice  path of one that was deleted on the host */
    public function make(DateTimeImmutable $today, string $notice): void
    {
        $morning = CarbonImmutable::instance($today);
        $now = CarbonImmutable::now();
        $this->ofFiles($morning, $now, $today, $notice);
        $this->ofFares($morning, $now);
        $this->ofMachines($morning, $now);
        $this->ofMail($morning, $now);
        $this->ofChartRoom($morning, $now);
    }

    private function ofFiles(CarbonImmutable $morning, CarbonImmutable $now, DateTimeImmutable $today, string $notice): void
    {
        $this->add('oona@sorrelsound.example', [
            'summary' => 'This week\'s crew roster is empty since this morning. "Had it on Thursday evening."',
            'reason' => 'The masters phone in for their shifts, and the office has nothing to tell them.',
            'lost' => '/'.SorrelSoundFiles::rosterPath($today),
            'wanted' => 'Thursday evening',
            'noticed_at' => $morning->setTime(6, 55),
            'due_at' => $now->addMinutes(78),
        ]);
        $this->add('milo@sorrelsound.example', [
            'summary' => 'All engine-room logs of the Dunlin are gone, the whole folder.',
            'reason' => 'The yard asks for the exhaust temperatures of the last month before it opens the port engine.',
            'lost' => '/engine-room/Dunlin',
            'wanted_at' => $morning->subDays(4)->setTime(18, 0),
            'noticed_at' => $morning->subDay()->setTime(15, 10),
            'due_at' => $now->addHours(7),
        ]);
        $this->add('milo@sorrelsound.example', [
            'summary' => 'The safety handbook opened as gibberish three weeks ago; I need the chapter as it was before that.',
            'reason' => 'An inspector compares the wording of chapter 4 with what was in force then.',
            'lost' => 'S:\\Handbooks\\Safety\\Chapter 4',
            'wanted_at' => $morning->subDays(23)->setTime(10, 0),
            'noticed_at' => $morning->subDays(2)->setTime(9, 40),
            'due_at' => $now->addDay()->addHours(3),
        ]);
        $this->add('oona@sorrelsound.example', [
            'summary' => 'The insurers want the sailing manifests of the week of the collision, as they were then.',
            'reason' => 'The copies in the office were tidied up since; what counts is what the purser wrote at the time.',
            'lost' => 'Sailing manifests',
            'wanted_at' => $morning->subDays(33)->setTime(16, 0),
            'noticed_at' => $morning->subDays(3)->setTime(11, 0),
            'due_at' => $now->addDays(2),
        ]);
        $this->add('oona@sorrelsound.example', [
            'summary' => 'The last notice is gone from the notices folder; I think I deleted it yesterday.',
            'reason' => 'It hangs in three terminals, and the fourth asks for it.',
            'lost' => "/$notice",
            'wanted_at' => $morning->subDay()->setTime(12, 0),
            'noticed_at' => $morning->setTime(8, 5),
            'due_at' => $now->addDays(3),
        ]);
    }

    private function ofFares(CarbonImmutable $morning, CarbonImmutable $now): void
    {
        $this->add(
            'oona@sorrelsound.example',
            [
                'summary' => 'Every ticket ever sold shows a price of 0.00 and "refunded", since yesterday afternoon.',
                'reason' => 'The takings of the month are due today, and the terminals go on selling meanwhile.',
                'lost' => 'tickets',
                'wanted_at' => $morning->subDay()->setTime(13, 30),
                'noticed_at' => $morning->subDay()->setTime(15, 40),
                'due_at' => $now->addHours(3),
            ],
            'fares-db',
        );
    }

    private function ofMachines(CarbonImmutable $morning, CarbonImmutable $now): void
    {
        $this->add(
            'oona@sorrelsound.example',
            [
                'summary' => 'The berth planner was deleted with the machines that nobody used any more. It was used.',
                'reason' => 'Until it is back, berths are given out by telephone, and two ferries were sent to one.',
                'lost' => 'berth-planner',
                'wanted_at' => $morning->setTime(2, 0),
                'noticed_at' => $morning->setTime(7, 20),
                'due_at' => $now->addHours(4),
            ],
            'berth-planner',
        );
        $this->add(
            'milo@sorrelsound.example',
            [
                'summary' => 'The tide board does not start any more since its update this morning.',
                'reason' => 'The boards at the piers show the tides of yesterday.',
                'lost' => 'tide-board',
                'wanted_at' => $morning->setTime(5, 0),
                'noticed_at' => $morning->setTime(7, 50),
                'due_at' => $now->addHours(6),
            ],
            'tide-board',
        );
        $this->add(
            'milo@sorrelsound.example',
            [
                'summary' => 'A copy of the crew roster, to try an upgrade on before the real one gets it.',
                'reason' => 'The upgrade is planned for the week after next.',
                'lost' => 'crew-roster',
                'wanted_at' => $now,
                'noticed_at' => $morning->setTime(8, 30),
                'due_at' => $now->addDays(4),
            ],
            'crew-roster',
        );
        $this->add(
            'oona@sorrelsound.example',
            [
                'summary' => 'The berth plans of the second week of this month, out of the planner, for the harbour office.',
                'reason' => 'The planner keeps none that are older than a month, and a damage claim asks for them.',
                'lost' => '/data/plans',
                'wanted_at' => $morning->subDays(8),
                'noticed_at' => $morning->setTime(8, 0),
                'due_at' => $now->addDays(2),
            ],
            'berth-planner',
        );
        $this->add(
            'milo@sorrelsound.example',
            [
                'summary' => 'The host of the slip watch burned down. Pier Nine must carry it until there is another.',
                'reason' => 'Nobody sees the water in the slips at night.',
                'lost' => 'slip-watch',
                'wanted_at' => $morning->setTime(1, 0),
                'noticed_at' => $morning->setTime(3, 10),
                'due_at' => $now->addHours(2),
            ],
            'slip-watch',
        );
    }

    private function ofChartRoom(CarbonImmutable $morning, CarbonImmutable $now): void
    {
        $this->add(
            'milo@sorrelsound.example',
            [
                'summary' => 'Everybody can read and write the minutes of the masters: somebody "fixed" the chart room for a tablet.',
                'reason' => 'They hold the pay of the reliefs. What was written since is to stay.',
                'lost' => '/'.SorrelSoundChartRoom::FLATTENED[0],
                'wanted_at' => $morning->subDays(SorrelSoundChartRoom::FLATTENED_BEFORE + 1)->setTime(12, 0),
                'noticed_at' => $morning->setTime(8, 20),
                'due_at' => $now->addHours(9),
            ],
            'chart-room',
        );
    }

    private function ofMail(CarbonImmutable $morning, CarbonImmutable $now): void
    {
        if (Workload::query()->where('name', 'crew-mail')->doesntExist()) {
            return;
        }
        $this->add(
            'oona@sorrelsound.example',
            [
                'summary' => 'The yard’s offer for the dry dock, two or three weeks old. It seems to have been thrown away.',
                'reason' => 'The offer stands until the end of the month, and the board decides tonight.',
                'lost' => 'dry dock',
                'wanted_at' => $morning->subDays(6)->setTime(12, 0),
                'noticed_at' => $morning->setTime(9, 10),
                'due_at' => $now->addHours(5),
            ],
            'crew-mail',
        );
        $this->add(
            'milo@sorrelsound.example',
            [
                'summary' => 'Bram Nyland left in the autumn and is back. His mailbox went with him; he needs what was in it.',
                'reason' => 'He takes over the slipway project again, and all of its letters are in there.',
                'lost' => 'bram@sorrelsound.example',
                'wanted_at' => $morning->subDays(11)->setTime(12, 0),
                'noticed_at' => $morning->setTime(8, 40),
                'due_at' => $now->addDays(2),
            ],
            'crew-mail',
        );
        $this->add(
            'milo@sorrelsound.example',
            [
                'summary' => 'Winter timetable with the pilots: that day was moved to Gull Ness, and now it is a Tuesday like any other.',
                'reason' => 'Nobody wrote down when the pilots expect us. The other days of the series are right, with their new room.',
                'lost' => 'winter timetable pilots',
                'wanted_at' => $morning->subDays(6)->setTime(12, 0),
                'noticed_at' => $morning->setTime(9, 50),
                'due_at' => $now->addDays(1),
            ],
            'crew-mail',
        );
        $this->add(
            'oona@sorrelsound.example',
            [
                'summary' => 'Two contacts of the purser were joined that are not the same person: the yard, and the doctor on call.',
                'reason' => 'Whoever calls the yard wakes the doctor, and her own number is nowhere.',
                'lost' => 'Inés Arriaga',
                'wanted_at' => $morning->subDays(7)->setTime(12, 0),
                'noticed_at' => $morning->setTime(10, 20),
                'due_at' => $now->addDays(1),
            ],
            'crew-mail',
        );
        $this->add(
            'oona@sorrelsound.example',
            [
                'summary' => 'For the company’s lawyer: all that was written to or by Low Skerry Mutual, whoever had it and threw it away.',
                'reason' => 'The insurer disputes what it was told of the quay wall. The court asks for originals.',
                'lost' => 'claims@low-skerry-mutual.example',
                'wanted_at' => $morning->setTime(1, 0),
                'noticed_at' => $morning->subDays(2)->setTime(15, 0),
                'due_at' => $now->addDays(4),
            ],
            'crew-mail',
        );
    }

    /** @param  array<string, mixed>  $about */
    private function add(string $email, array $about, string $workload = 'boathouse-files'): void
    {
        $requester = User::query()->where('email', $email)->firstOrFail();
        $wanted = $about['wanted'] ?? null;
        unset($about['wanted']);
        $request = new RecoveryRequest(
            ['workload_id' => Workload::query()->where('name', $workload)->value('id'), 'requester_id' => $requester->id] + $about,
        );
        if ($wanted !== null) {
            $request->wantAsSaid($wanted, $requester->zone);
        }
        $request->save();
        TrailEntry::add('The request came in.', $request, $requester);
    }
}
