@use('App\Trees\Run\LongList')
@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@php($outcome = $view->outcome())
@if ($run->taken_as !== null && $run->state === 'queued')
    <p>
        The archive is made while it is sent, and sent once.</p>
    @can('download', $run)
        <p><a class="btn btn-primary" id="download" hx-boost="false" href="/runs/{{ $run->id }}/download" download>Download
                {{ Words::count($run->files_total, 'file') }}, {{ Words::size($run->bytes_total) }} ({{ $run->taken_as }})</a></p>
        <p class="muted">When it has arrived: <a href="{{ $run->page() }}">look again</a></p>
    @else
        <p class="muted">An operator or the requester takes it.</p>
    @endcan
@else
    @php($isPermissions = $view->isPermissions())
    <x-run-page :run="$run" :beside="$isPermissions ? [] : ['manifest' => 'Manifest for b2sum']"
        :go-on-hint="$isPermissions ? 'what has them already is left' : 'what it had brought and is right is not brought again'">
        <x-slot:came>{{ $view->came() }}</x-slot:came>
        <x-slot:wrong>what is missing or different stands below.</x-slot:wrong>
        <x-slot:set-aside>{{ Words::count($outcome['set_aside'] ?? 0, 'thing') }} that it replaced</x-slot:set-aside>
        <x-slot:facts>
            @if ($run->state === 'done')
                <dt>Is now in</dt>
                <dd class="mono">
                    @if ($run->taken_as !== null)
                        whoever downloaded it
                        @else{{ ($run->plan['host'] ?? '') === '' ? ''
                            : $run->plan['host'] . ':' }}{{ Shown::name(rawurldecode($run->plan['target'])) }}
                    @endif
                </dd>
                <dt>Point</dt>
                <dd><span class="mono">{{ $run->set_name }}</span></dd>
                <dt>Was read</dt>
                <dd>
                    @forelse ($outcome['read'] as $line)
                        {{ Words::count($line['members'], 'member') }} ({{ Words::size($line['bytes']) }}) of
                        {{ $line['set'] }} from {{ $line['store'] }}@if (!$loop->last)
                            <br>
                        @endif
                    @empty
                        nothing
                    @endforelse
                </dd>
            @endif
        </x-slot:facts>
        <x-slot:more-facts>
            @if (($outcome['damaged'] ?? []) !== [])
                <dt class="attention">Found damaged</dt>
                <dd class="attention">
                    @foreach ($outcome['damaged'] as $because)
                        An archive {{ $because }}.
                    @endforeach
                </dd>
            @endif
        </x-slot:more-facts>
        <x-slot:back-told>{{ $view->cameBack() }}</x-slot:back-told>
        <x-slot:back-means>
            @if ($isPermissions)
                <p class="mb-1">Everything that got others gets back the permissions that it had before this run.
                    What somebody has given others since is left, and named here.</p>
                <p class="mb-1"><label><input type="checkbox" name="also_changed" value="1"> Also what was given others since</label></p>
            @else
                <p class="mb-1">What this run placed is removed, and what it replaced comes back, with the times it had.
                    What somebody has changed since is left, and named here.</p>
                <p class="mb-1"><label><input type="checkbox" name="also_changed" value="1"> Put back also what was changed since;
                        the changed one is kept beside it under another name</label></p>
            @endif
        </x-slot:back-means>
        @if ($run->state === 'done')
            @php($wrong = $view->wrong())
            @php($left = $view->left())
            @foreach ([LongList::LEFT_OUT => 'not brought back', LongList::DIFFERENCES => 'not as in the catalog'] as $list => $words)
                @if (LongList::count($outcome, $list) > LongList::FIRST)
                    <p class="mb-1">{{ number_format(LongList::count($outcome, $list)) }} things were {{ $words }};
                        the first {{ number_format(LongList::FIRST) }} stand here.
                        <a class="text-decoration-underline" href="/runs/{{ $run->id }}/{{ $list }}">All of them, as a file</a></p>
                @endif
            @endforeach
            @if ($wrong !== [])
                <h3 class="h6">Not there, or not the same</h3>
                <div class="scroll short">
                    <table class="list mb-3">
                        <tbody>
                            @foreach ($wrong as $row)
                                <tr>
                                    <td class="mono">/{{ $row['path'] }}</td>
                                    <td class="@if ($row['loss']) attention @endif">{{ $row['because'] }}</td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                </div>
            @endif
            @if ($left !== [])
                <details class="mb-2">
                    <summary>Left as they were, or left out by the rule: {{ number_format(count($left)) }}</summary>
                    <div class="scroll short" tabindex="0" role="region" aria-label="Left as they were">
                        <table class="list mb-3">
                            <tbody>
                                @foreach (array_slice($left, 0, 500) as $row)
                                    <tr>
                                        <td class="mono">/{{ $row['path'] }}</td>
                                        <td>{{ $row['because'] }}</td>
                                    </tr>
                                @endforeach
                            </tbody>
                        </table>
                    </div>
                </details>
            @endif
        @endif
    </x-run-page>
@endif
