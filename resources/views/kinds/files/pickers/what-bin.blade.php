@use('App\Words')
@use('Kaiseki\Core\Files\Status')
@php($told = $what->toldOfBin())
<div id="bin"
    @if ($told === '') hx-get="{{ $what->url('bin') }}" hx-select="#bin" hx-target="#bin" hx-swap="outerHTML" hx-trigger="every 1s" @endif>
    @if ($told !== null)
        <p role="status" class="attention">{{ $told === '' ? 'It is being taken out of the bin.' : $told }}</p>
    @endif
    @php($entries = $what->bin())
    @php($wanted = $what->inBin())
    @if ($entries === [])
        <p class="empty">
            {{ $request->workload?->source === null ? 'The original has no place that is known here.'
                : 'There is no bin on this host, or nothing lies in it.' }}
        </p>
    @else
        <p>What was deleted on the host and still lies there needs no restore point. Nothing that stands in its place is touched.</p>
        <div class="scroll short" tabindex="0" role="region" aria-label="What lies in the bin">
            <table class="list">
                <thead>
                    <tr>
                        <th>Was at</th>
                        <th>Deleted</th>
                        <th class="num">Size</th>
                        <th>Changed</th>
                        <th><span class="visually-hidden">What to do</span></th>
                    </tr>
                </thead>
                <tbody>
                    @foreach (array_slice($entries, 0, 200) as $entry)
                        <tr class="@if ($wanted?->file === $entry->file) chosen @endif">
                            <td><x-path :of="$entry->path" />{{ $entry->status->type === Status::FOLDER ? '/' : '' }}
                            </td>
                            <td class="tight"><x-moment :at="$entry->deletedAt" :zone="$frame->zone" /></td>
                            <td class="num">
                                @if ($entry->status->type === Status::FILE)
                                    <x-size :bytes="$entry->status->size" />
                                @endif
                            </td>
                            <td class="tight mono">
                                {{ Words::changed($entry->status->mtime, $frame->zone) }}
                            </td>
                            <td class="tight">
                                <form method="post" action="/requests/{{ $request->id }}/bin" class="m-0">@csrf<button data-row
                                        class="link" name="file" value="{{ rawurlencode($entry->file) }}">back to its
                                        place</button></form>
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        </div>
    @endif
</div>
