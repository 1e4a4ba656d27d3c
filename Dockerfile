# Server, workers and command line in one image. docs/operate.md says how a studio runs them.
FROM node:20-bookworm-slim AS build
WORKDIR /app
ENV NEXT_TELEMETRY_DISABLED=1
COPY package.json package-lock.json ./
RUN npm install --no-save --no-audit --no-fund
COPY . .
RUN npm run build

FROM node:20-bookworm-slim
WORKDIR /app
ENV NODE_ENV=production NEXT_TELEMETRY_DISABLED=1
COPY --from=build --chown=node:node /app /app
RUN mkdir /blobs && chown node:node /blobs
USER node
EXPOSE 3000
CMD ["node", "dist/serve.cjs"]
